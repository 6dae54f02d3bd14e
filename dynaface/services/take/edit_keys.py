"""Keys of a take: every edit of them in the time deck (core/keying/kit.py), and what it changes in the document."""

from typing import Any

from dynaface.core.curves.held import Held
from dynaface.core.documents.changes import path_of
from dynaface.core.documents.model.take import TakeBody
from dynaface.core.keying.case import Column, Edit, Made
from dynaface.core.keying.kit import edited_keys
from dynaface.core.records.records import Document
from dynaface.core.tidy.hand_case import HandCase
from dynaface.services.edit_document import change_document
from dynaface.services.key_rows import key_changes, key_rows
from dynaface.services.take.prepare_take import PreparedTake, prepare_take
from dynaface.services.work import Work


def edit_keys(work: Work, take: str, version: int, label: str, edit: Edit) -> tuple[Document[TakeBody], dict[str, Any]]:
    """Makes an edit and keeps it: (take, what it did by channel). It can be undone."""
    prepared = prepare_take(work, take)
    made, report = _edited(prepared, edit)
    return change_document(work, take, TakeBody, version, label, _changes(prepared, made)), report


def changes_of_edit(work: Work, take: str, edit: Edit) -> list[dict[str, Any]]:
    """What an edit would change in the take: for a preview."""
    prepared = prepare_take(work, take)
    return _changes(prepared, _edited(prepared, edit)[0])


def _edited(prepared: PreparedTake, edit: Edit) -> tuple[Made, dict[str, Any]]:
    hand, curves = prepared.take.body.by_hand, (prepared.raw, prepared.stacked, prepared.tidied)

    def case(channel: str, held: Held | None, chosen: frozenset[int]) -> HandCase:
        raw, beneath, now = (c.column(channel) for c in curves)
        return HandCase(channel, held, chosen, hand, Column(raw, beneath, now, float(curves[0].rate)), edit)

    return edited_keys(edit, prepared.tidied.names, hand, case)


def _changes(prepared: PreparedTake, made: Made) -> list[dict[str, Any]]:
    """The changes to a take that bring channels there; of a channel that holds keys already, only the keys that differ."""
    out: list[dict[str, Any]] = []
    for channel, after in made.items():
        before, path = prepared.take.body.by_hand.get(channel), path_of("hand", channel)
        if after is None:
            out.append({"path": path, "remove": True})
        elif before is None or before.mode != after.mode:
            out.append({"path": path, "value": {"mode": after.mode, "keys": key_rows(after.keys)}})
        else:
            out += key_changes(f"{path}/keys", before.keys, after.keys)
    return out
