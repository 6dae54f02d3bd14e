"""What comes in as JSON, looked at once for all addresses."""

from typing import Any

import orjson
from flask import Flask
from flask.json.provider import DefaultJSONProvider

from dynaface.core.errors import InputError
from dynaface.core.plain import bounded

BODY = "the body of the request"


class _Door(DefaultJSONProvider):
    def loads(self, s: str | bytes, **kwargs: Any) -> Any:
        """The value; raises InputError for what is no JSON or holds what nothing of ours can hold."""
        try:
            return bounded(orjson.loads(s), BODY)
        except orjson.JSONDecodeError as error:
            raise InputError(f"this is no JSON: {error}", where=BODY) from None


def guard_json(app: Flask) -> None:
    """Every body that a view reads as JSON comes through the door."""
    app.json = _Door(app)
