"""Takes: opening, evaluating, sources, sync; documents: editing, undo and redo."""

from flask import Response, request

from dynaface.services.edit_document import edit_document, history_state, redo, undo
from dynaface.services.media.fetch_media import fetch_peaks, fetch_source
from dynaface.services.pieces import Piece
from dynaface.services.take.estimate_sync import estimate_sync
from dynaface.services.take.find_body import find_body
from dynaface.services.take.import_take import attach_source
from dynaface.services.take.open_take import open_take, see_take
from dynaface.services.take.preview_take import Trial, preview_take
from dynaface.services.take.report_take import join_report
from dynaface.services.take.snapshot import Wish
from dynaface.web.answers import as_bundle, as_json, as_medium
from dynaface.web.models import Attached, BodyFound, Documents, Edit, Evaluate, HistoryState, SyncEstimate
from dynaface.web.models_cast import JoinReport
from dynaface.web.models_documents import AnyDocument, OpenedTake, TakeDocument, Travelled
from dynaface.web.spec import checked, routes, work

MIME = {"sound": "audio/wav", "character": "model/gltf-binary", "prop": "model/gltf-binary", "footage": "video/mp4"}


@routes.get("/takes/<take>")
@checked(gives=OpenedTake)
def look_at_take(take: str) -> Response:
    """A take with its sources, character, cast sheet and join; one that was never worked on has no stored sheet or join."""
    return as_json(see_take(work(), take))


@routes.post("/takes/<take>/open")
@checked(gives=OpenedTake)
def work_on_take(take: str) -> Response:
    """The same to be worked on: its cast sheet and join are stored when they were not yet."""
    return as_json(open_take(work(), take))


@routes.post("/takes/<take>/sources")
@checked(takes=Attached, gives=TakeDocument)
def new_source(take: str) -> Response:
    """Brings a further file into a take."""
    given: Attached = request.context.json  # type: ignore[attr-defined]
    return as_json(attach_source(work(), take, given.model_dump(exclude_none=True)))


@routes.post("/takes/<take>/evaluate")
@checked(takes=Evaluate)
def evaluate(take: str) -> Response:
    """Curves, weights and motion of a take as a binary bundle, with what is being dragged in place of what is stored."""
    given: Evaluate = request.context.json  # type: ignore[attr-defined]
    take_changes, cast, join = ([c.model_dump() for c in part] for part in (given.take, given.cast, given.join))
    wish = Wish(take_changes, cast, join, given.character, given.curves, tuple(dict.fromkeys(given.joints)))
    pieces = [Piece(**p.model_dump()) for p in given.pieces]
    return as_bundle(*preview_take(work(), take, pieces, wish, Trial(given.mends, given.bodyMends, given.edit)))


@routes.get("/takes/<take>/join")
@checked(gives=JoinReport)
def see_join(take: str) -> Response:
    """Where the body lies in time, and when its feet stand."""
    return as_json(join_report(work(), take))


@routes.post("/takes/<take>/sync")
@checked(gives=SyncEstimate)
def sync(take: str) -> Response:
    """The sound's offset estimated from the lips."""
    return as_json(estimate_sync(work(), take))


@routes.post("/takes/<take>/body-place")
@checked(gives=BodyFound)
def body_place(take: str) -> Response:
    """Where the body belongs in time, by what both recordings saw or heard."""
    return as_json(find_body(work(), take))


@routes.get("/sources/<source>/media")
@checked()
def source_media(source: str) -> Response:
    """The bytes of a source, whole or a range of them."""
    found, medium = fetch_source(work(), source)
    return as_medium(medium, MIME.get(found.kind, "application/octet-stream"))


@routes.get("/sources/<source>/peaks")
@checked()
def source_peaks(source: str) -> Response:
    """The lowest and highest sample of each 5 ms as a binary bundle."""
    rate, peaks = fetch_peaks(work(), source)
    return as_bundle({"rate": rate}, {"peaks": peaks})


@routes.post("/documents/<document>/edits")
@checked(takes=Edit, gives=AnyDocument)
def edit(document: str) -> Response:
    """Changes a document."""
    given: Edit = request.context.json  # type: ignore[attr-defined]
    changes = [c.model_dump() for c in given.changes]
    return as_json(edit_document(work(), document, given.version, given.label, changes))


@routes.post("/undo")
@checked(takes=Documents, gives=Travelled)
def take_back() -> Response:
    """Takes back the newest own change on any of the documents."""
    document, label = undo(work(), request.context.json.documents)  # type: ignore[attr-defined]
    return as_json({"document": document, "label": label})


@routes.post("/redo")
@checked(takes=Documents, gives=Travelled)
def make_again() -> Response:
    """Makes again what was taken back last."""
    document, label = redo(work(), request.context.json.documents)  # type: ignore[attr-defined]
    return as_json({"document": document, "label": label})


@routes.post("/history")
@checked(takes=Documents, gives=HistoryState)
def see_history() -> Response:
    """What undo and redo would do."""
    return as_json(history_state(work(), request.context.json.documents))  # type: ignore[attr-defined]
