"""Tidying: snags and their mends, proposed and saved stacks, keys, comparing takes."""

from flask import Response, request

from dynaface.services.take.compare_takes import compare_takes
from dynaface.services.take.edit_keys import edit_keys
from dynaface.services.take.find_body_snags import list_body_snags, mend_body
from dynaface.services.take.find_take_snags import list_snags, mend_take, propose_stack
from dynaface.services.take.saved_stacks import BODIES, list_stacks, run_stack, save_stack
from dynaface.web.answers import as_bundle, as_json
from dynaface.web.models_documents import BodyStackDocument, JoinDocument, StackDocument, StackProposal, TakeDocument
from dynaface.web.models_tidy import (
    KeyEdit,
    KeysEdited,
    Mends,
    NewStack,
    SnagList,
    StackRan,
    StackRows,
    StackRun,
)
from dynaface.web.spec import checked, routes, work


@routes.post("/takes/<take>/snags")
@checked(gives=SnagList)
def snags(take: str) -> Response:
    """Looks for what is wrong, worst first, each with a proposed mend; how much is open is noted for the list of takes."""
    return as_json(list_snags(work(), take))


@routes.post("/takes/<take>/mends")
@checked(takes=Mends, gives=TakeDocument)
def mend(take: str) -> Response:
    """Accepts the mends of snags as one change."""
    given: Mends = request.context.json  # type: ignore[attr-defined]
    return as_json(mend_take(work(), take, given.version, given.keys))


@routes.post("/takes/<take>/body-snags")
@checked(gives=SnagList)
def body_snags(take: str) -> Response:
    """Looks for what is wrong with the body, worst first, each with a proposed mend."""
    return as_json(list_body_snags(work(), take))


@routes.post("/takes/<take>/body-mends")
@checked(takes=Mends, gives=JoinDocument)
def body_mends(take: str) -> Response:
    """Accepts the mends of snags of the body as one change of its join; version: of the join."""
    given: Mends = request.context.json  # type: ignore[attr-defined]
    return as_json(mend_body(work(), take, given.version, given.keys))


@routes.get("/takes/<take>/proposal")
@checked(gives=StackProposal)
def proposal(take: str) -> Response:
    """A whole tidy stack proposed from what was measured."""
    return as_json(propose_stack(work(), take))


@routes.post("/takes/<take>/keys")
@checked(takes=KeyEdit, gives=KeysEdited)
def keys(take: str) -> Response:
    """Edits keys and keeps the result."""
    given: KeyEdit = request.context.json  # type: ignore[attr-defined]
    document, report = edit_keys(work(), take, given.version, given.label, given.edit)
    return as_json({"document": document, "report": report})


@routes.get("/takes/<take>/aligned/<other>")
@checked()
def aligned_take(take: str, other: str) -> Response:
    """Another take on this one's frames as a binary bundle, with the numbers of the difference."""
    return as_bundle(*compare_takes(work(), take, other))


@routes.get("/productions/<production>/stacks")
@checked(gives=StackRows)
def stacks(production: str) -> Response:
    """Tidy stacks that were saved by name."""
    return as_json(list_stacks(work(), production))


@routes.post("/takes/<take>/stacks")
@checked(takes=NewStack, gives=StackDocument)
def new_stack(take: str) -> Response:
    """Saves a take's stack under a name."""
    return as_json(save_stack(work(), take, request.context.json.name))  # type: ignore[attr-defined]


@routes.get("/productions/<production>/body-stacks")
@checked(gives=StackRows)
def body_stacks(production: str) -> Response:
    """Steps for bodies that were saved by name."""
    return as_json(list_stacks(work(), production, BODIES))


@routes.post("/takes/<take>/body-stacks")
@checked(takes=NewStack, gives=BodyStackDocument)
def new_body_stack(take: str) -> Response:
    """Saves the steps for the body of a take under a name."""
    return as_json(save_stack(work(), take, request.context.json.name, BODIES))  # type: ignore[attr-defined]


@routes.post("/body-stacks/<stack>/runs")
@checked(takes=StackRun, gives=StackRan)
def run_body(stack: str) -> Response:
    """Gives the bodies of takes saved steps in place of their own."""
    return as_json(run_stack(work(), stack, request.context.json.takes, BODIES))  # type: ignore[attr-defined]


@routes.post("/stacks/<stack>/runs")
@checked(takes=StackRun, gives=StackRan)
def run(stack: str) -> Response:
    """Gives takes a saved stack in place of their own."""
    return as_json(run_stack(work(), stack, request.context.json.takes))  # type: ignore[attr-defined]
