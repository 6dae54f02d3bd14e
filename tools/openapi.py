"""Writes docs/openapi.json from the web application: `python -m tools.openapi`; the front end's types come from it."""

import sys
from pathlib import Path

import orjson
from flask import Flask

from dynaface.web.app import add_views
from dynaface.web.spec import spec

PATH = Path(__file__).parents[1] / "docs/openapi.json"


def description() -> bytes:
    """The API's description."""
    app = Flask("description")
    add_views(app)
    with app.app_context():
        return orjson.dumps(spec.spec, option=orjson.OPT_INDENT_2 | orjson.OPT_SORT_KEYS) + b"\n"


if __name__ == "__main__":
    if "--check" in sys.argv:
        sys.exit(0 if PATH.read_bytes() == description() else "docs/openapi.json is old: run python -m tools.openapi")
    PATH.write_bytes(description())
