"""Uploads, at once or in pieces, and what is found in them."""

from collections.abc import Iterator

from flask import Response, request

from dynaface.core.records.records import Upload
from dynaface.services.media.inspect_upload import inspect_upload
from dynaface.services.media.receive_upload import PIECE as MAX_PIECE
from dynaface.services.media.receive_upload import add_piece, begin_upload, receive_upload, upload_state
from dynaface.services.take.import_take import list_bodies
from dynaface.store.media import PIECE
from dynaface.web.answers import as_json
from dynaface.web.models import File, FoundBodies, Inspection, NewUpload, Uploaded, Uploading
from dynaface.web.spec import checked, routes, work


@routes.post("/productions/<production>/uploads")
@checked(gives=Uploaded)
def upload(production: str) -> Response:
    """Takes the raw bytes of a file as the body of the request."""

    def pieces() -> Iterator[bytes]:
        while piece := request.stream.read(PIECE):
            yield piece

    media, size = receive_upload(work(), production, pieces())
    return as_json({"media": media, "size": size})


def _uploading(found: Upload) -> dict[str, object]:
    return {"upload": found.id, "received": found.received, "media": found.media}


@routes.post("/productions/<production>/uploads/begin")
@checked(takes=NewUpload, gives=Uploading)
def upload_in_pieces(production: str) -> Response:
    """Begins a file that comes in pieces of at most 8 MB."""
    made = begin_upload(work(), production, request.context.json.size)  # type: ignore[attr-defined]
    return as_json(_uploading(made))


@routes.get("/uploads/<upload>")
@checked(gives=Uploading)
def uploading(upload: str) -> Response:
    """How far an upload has come: it goes on from there."""
    return as_json(_uploading(upload_state(work(), upload)))


@routes.put("/uploads/<upload>/<int:offset>")
@checked(gives=Uploading)
def piece(upload: str, offset: int) -> Response:
    """Takes the bytes from an offset on as the body of the request; the medium is given when the file is whole."""
    return as_json(_uploading(add_piece(work(), upload, offset, request.stream.read(MAX_PIECE + 1))))


@routes.post("/productions/<production>/inspections")
@checked(takes=File, gives=Inspection)
def inspection(production: str) -> Response:
    """Looks at an uploaded file without keeping anything of it."""
    given: File = request.context.json  # type: ignore[attr-defined]
    found = inspect_upload(work(), production, given.media, given.name, given.recipe)
    return as_json(
        {"kind": found.format.kind, "format": found.format.name, "remembered": found.remembered, "report": found.report}
    )


@routes.post("/productions/<production>/bodies")
@checked(takes=File, gives=FoundBodies)
def bodies(production: str) -> Response:
    """The performers whose bodies an uploaded file holds."""
    given: File = request.context.json  # type: ignore[attr-defined]
    return as_json(list_bodies(work(), production, given.model_dump(exclude_none=True)))
