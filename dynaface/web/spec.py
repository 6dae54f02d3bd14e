"""Checked requests and the OpenAPI description; views are registered on `routes`."""

from collections.abc import Callable
from functools import cache
from typing import Any

from flask import Blueprint, current_app, g
from pydantic import BaseModel
from spectree import Response as Described
from spectree import SpecTree
from spectree.model_adapter import get_pydantic_model_adapter

from dynaface.core.errors import InputError
from dynaface.services.work import Work
from dynaface.web.models import Problem

routes = Blueprint("api", __name__, url_prefix="/api")


def _refuse(request: Any, answer: Any, error: Any, instance: Any, *_: Any) -> None:
    """Turns a body that does not fit into an error of ours, with the place in the body."""
    if error is not None:
        first = error.errors()[0]
        raise InputError(str(first["msg"]), where="/".join(map(str, first["loc"])) or "the body of the request")


# Each model is described once: that of a problem belongs to every route, and a description takes some milliseconds.
described = get_pydantic_model_adapter()
described.json_schema = cache(described.json_schema)  # type: ignore[method-assign, assignment]

spec = SpecTree(
    "flask",
    model_adapter=described,
    title="Dynaface",
    version="1",
    annotations=False,
    path="apidoc",
    page_templates={},
    naming_strategy=lambda model: model.__name__,
    nested_naming_strategy=lambda _, child: child,
    before=_refuse,
)


def checked(takes: type[BaseModel] | None = None, gives: type[BaseModel] | None = None) -> Callable[..., Any]:
    """Describes and checks a view: its JSON body and what it answers."""
    answers: dict[str, Any] = {"HTTP_200": gives, "HTTP_404": Problem, "HTTP_422": Problem}
    return spec.validate(json=takes, resp=Described(**answers), skip_validation=takes is None)


def work() -> Work:
    """The work of the person who asks."""
    made: Work = current_app.extensions["dynaface"]
    return made.by(g.person)
