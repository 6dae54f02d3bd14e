"""Colour dots: picked in a clip, followed, solved."""

from flask import Response, request

from dynaface.core.documents.model.dots import DotsBody
from dynaface.services.footage.dot_layouts import begin_dots, pick
from dynaface.services.footage.solve_dot_take import fetch_dots, request_dot_samples, request_dot_solve
from dynaface.services.layouts import layouts_of
from dynaface.web.answers import as_bundle, as_json
from dynaface.web.models import JobOut
from dynaface.web.models_documents import DotsDocument, DotsRows
from dynaface.web.models_markers import NewDots, NewDotSolve, NewPick
from dynaface.web.spec import checked, routes, work


@routes.get("/productions/<production>/dots")
@checked(gives=DotsRows)
def dot_layouts(production: str) -> Response:
    """All layouts of colour dots."""
    return as_json(layouts_of(work(), production, DotsBody))


@routes.post("/takes/<take>/dots")
@checked(takes=NewDots, gives=DotsDocument)
def new_dots(take: str) -> Response:
    """An empty layout of colour dots for a take's clip."""
    return as_json(begin_dots(work(), take, request.context.json.name))  # type: ignore[attr-defined]


@routes.post("/dots/<dots>/picks")
@checked(takes=NewPick, gives=DotsDocument)
def new_pick(dots: str) -> Response:
    """Picks a dot in a picture of the layout's clip."""
    given: NewPick = request.context.json  # type: ignore[attr-defined]
    return as_json(pick(work(), dots, given.frame, given.x, given.y, given.place, given.mirror))


@routes.post("/dots/<dots>/samples")
@checked(gives=JobOut)
def dot_samples(dots: str) -> Response:
    """Queues looking for the expression samples of the layout's clip."""
    return as_json(request_dot_samples(work(), dots))


@routes.post("/takes/<take>/dot-solves")
@checked(takes=NewDotSolve, gives=JobOut)
def new_dot_solve(take: str) -> Response:
    """Queues a solve of a take's dots."""
    return as_json(request_dot_solve(work(), take, request.context.json.dots))  # type: ignore[attr-defined]


@routes.get("/sources/<source>/dots")
@checked()
def followed_dots(source: str) -> Response:
    """The dots of a solve as a binary bundle."""
    return as_bundle(*fetch_dots(work(), source))
