"""Errors become statuses, here and nowhere else."""

import logging

from flask import Flask, Response
from procrastinate.exceptions import ConnectorException
from sqlalchemy.exc import DataError as SQLAlchemyDataError
from sqlalchemy.exc import InterfaceError, OperationalError
from sqlalchemy.exc import TimeoutError as PoolTimeout
from werkzeug.exceptions import HTTPException

from dynaface.core.errors import ConflictError, DeniedError, DynafaceError, InputError, LimitError, NotFoundError
from dynaface.web.answers import as_json

log = logging.getLogger("dynaface.web")
STATUSES: tuple[tuple[type[DynafaceError], int], ...] = (
    (LimitError, 413),
    (InputError, 422),
    (NotFoundError, 404),
    (ConflictError, 409),
    (DeniedError, 403),
    (DynafaceError, 400),
)


def handle_errors(app: Flask) -> None:
    """Gives every error a status and a readable body."""

    @app.errorhandler(DynafaceError)
    def ours(error: DynafaceError) -> Response:
        status = next(s for kind, s in STATUSES if isinstance(error, kind))
        body = {"message": error.message, "where": error.where, "hint": error.hint}
        if isinstance(error, ConflictError):
            body |= {"who": error.who, "what": error.what}
        return as_json(body, status)

    @app.errorhandler(HTTPException)
    def http(error: HTTPException) -> Response:
        return as_json({"message": error.description or error.name, "where": "", "hint": ""}, error.code or 500)

    @app.errorhandler(SQLAlchemyDataError)
    def unfit(error: Exception) -> Response:
        log.warning("the database refused a value: %s", str(error)[:200])
        return as_json({"message": "a value does not fit into what is stored", "where": "", "hint": "Check it"}, 422)

    @app.errorhandler(OperationalError)
    @app.errorhandler(InterfaceError)
    @app.errorhandler(PoolTimeout)
    @app.errorhandler(ConnectorException)
    def away(error: Exception) -> Response:
        """Nothing was kept: the transaction ended with its connection."""
        log.warning("the database is not reached: %s", str(error).splitlines()[0][:200])
        answer = as_json({"message": "the database is not reached", "where": "", "hint": "It is tried again"}, 503)
        answer.headers["Retry-After"] = "2"
        return answer

    @app.errorhandler(Exception)
    def unexpected(error: Exception) -> Response:
        log.exception("unexpected error")
        return as_json(
            {"message": "an error of ours; nothing was changed", "where": "", "hint": "The log says more"}, 500
        )
