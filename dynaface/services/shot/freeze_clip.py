"""Holding a clip to what its take gives now, and letting it follow the take again."""

from dynaface.core.documents.model.shot import ClipBody
from dynaface.core.errors import InputError
from dynaface.core.records.records import Document
from dynaface.services.edit_document import change_document
from dynaface.services.take.prepare_take import prepare_take
from dynaface.services.take.store_curves import store_curves
from dynaface.services.work import Work, document_for


def freeze_clip(work: Work, clip: str, version: int) -> Document[ClipBody]:
    """Keeps the take's curves as they are now as a source of their own and holds the clip to them; it can be undone."""
    with work.store.snapshot() as unit:
        found = document_for(work, unit, clip, ClipBody)
    if found.body.frozen:
        raise InputError("this clip is held already", hint="Let it follow its take first")
    prepared = prepare_take(work, found.body.take)
    channels, take = prepared.tidied, prepared.take.body
    name = f"{take.slate} as of version {prepared.take.version}"
    source = store_curves(work, found.production, name, channels, {"held": found.body.take})
    change = {"path": "frozen", "value": source.id}
    return change_document(work, clip, ClipBody, version, f"hold {found.body.name}"[:120], [change])


def follow_take(work: Work, clip: str, version: int) -> Document[ClipBody]:
    """The clip follows its take again."""
    with work.store.snapshot() as unit:
        found = document_for(work, unit, clip, ClipBody)
    change = {"path": "frozen", "value": None}
    return change_document(work, clip, ClipBody, version, f"let {found.body.name} follow its take"[:120], [change])
