"""Footage, performer cards and solves."""

from flask import Response, request

from dynaface.core.shapes.regions import FACE
from dynaface.services.footage.capture_head import fetch_head, plain_head
from dynaface.services.footage.performer_cards import copy_card, list_cards
from dynaface.services.footage.propose_samples import check_neutral, find_extreme
from dynaface.services.footage.seen_landmarks import fetch_points
from dynaface.services.footage.solve_take import fetch_camera, fetch_confidence, fetch_proxy, list_solves
from dynaface.services.jobs.request_jobs import request_card, request_preparation, request_proposal, request_solve
from dynaface.web.answers import as_bundle, as_file, as_json, as_medium
from dynaface.web.models import (
    CardCopy,
    CardRows,
    Doubts,
    JobOut,
    NewCard,
    NewSolve,
    ShownAgain,
    SolveRows,
)
from dynaface.web.models_documents import CardDocument
from dynaface.web.spec import checked, routes, work


@routes.get("/productions/<production>/cards")
@checked(gives=CardRows)
def cards(production: str) -> Response:
    """All performer cards."""
    return as_json(list_cards(work(), production))


@routes.post("/takes/<take>/preparations")
@checked(gives=JobOut)
def prepare(take: str) -> Response:
    """Looks a take's footage through once more."""
    return as_json(request_preparation(work(), take))


@routes.post("/takes/<take>/proposals")
@checked(gives=JobOut)
def proposals(take: str) -> Response:
    """Queues looking for the stillest second and the frame of each expression's extreme; the job's result names them."""
    return as_json(request_proposal(work(), take))


@routes.get("/takes/<take>/neutral/<int:first>/<int:last>")
@checked(gives=Doubts)
def neutral(take: str, first: int, last: int) -> Response:
    """What speaks against frames as the neutral face."""
    return as_json({"doubts": check_neutral(work(), take, first, last)})


@routes.get("/takes/<take>/extremes/<shape>")
@checked(gives=ShownAgain)
def extreme_of(take: str, shape: str) -> Response:
    """The frame of an expression's extreme in a clip that shows nothing else; none before it was looked through."""
    return as_json(find_extreme(work(), take, shape))


@routes.post("/takes/<take>/cards")
@checked(takes=NewCard, gives=JobOut)
def new_card(take: str) -> Response:
    """Queues a performer card from a take's footage."""
    return as_json(request_card(work(), take, request.context.json.model_dump()))  # type: ignore[attr-defined]


@routes.post("/cards/<card>/copies")
@checked(takes=CardCopy, gives=CardDocument)
def copy_of_card(card: str) -> Response:
    """The same performer card for another day."""
    return as_json(copy_card(work(), card, request.context.json.day))  # type: ignore[attr-defined]


@routes.get("/takes/<take>/solves")
@checked(gives=SolveRows)
def solves(take: str) -> Response:
    """The solves of a take's footage, newest first."""
    return as_json(list_solves(work(), take))


@routes.post("/takes/<take>/solves")
@checked(takes=NewSolve, gives=JobOut)
def new_solve(take: str) -> Response:
    """Queues a solve."""
    given: NewSolve = request.context.json  # type: ignore[attr-defined]
    return as_json(request_solve(work(), take, given.card, given.first, given.last, given.moves, given.neutral))


@routes.get("/sources/<source>/proxy")
@checked()
def proxy(source: str) -> Response:
    """The proxy of footage, whole or a range of it."""
    return as_medium(fetch_proxy(work(), source), "video/mp4")


@routes.get("/sources/<source>/points/<int:first>/<int:last>")
@checked()
def points(source: str, first: int, last: int) -> Response:
    """The landmarks of frames of footage as a binary bundle, of so many at most as are given at once."""
    return as_bundle({}, {"points": fetch_points(work(), source, first, last)})


@routes.get("/sources/<source>/camera")
@checked()
def camera(source: str) -> Response:
    """The camera's motion round the head as a table."""
    return as_file(*fetch_camera(work(), source))


@routes.get("/heads/general")
@checked()
def general() -> Response:
    """The general head as a binary bundle, for a live preview."""
    return as_bundle(*plain_head())


@routes.get("/sources/<source>/head")
@checked()
def head(source: str) -> Response:
    """The performer's head and its pose in each frame of a solve as a binary bundle."""
    return as_bundle(*fetch_head(work(), source))


@routes.get("/sources/<source>/confidence")
@checked()
def confidence(source: str) -> Response:
    """The confidence of a solve by region as a binary bundle."""
    return as_bundle({"regions": list(FACE)}, {"confidence": fetch_confidence(work(), source)})
