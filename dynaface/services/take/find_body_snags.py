"""Snags of the body of a take: found on it and on what it makes of the character, mended in its join."""

from collections.abc import Sequence
from typing import Any

import numpy as np

from dynaface.core.body.rotations import Array
from dynaface.core.documents.changes import path_of
from dynaface.core.documents.model.join import JoinBody
from dynaface.core.errors import InputError
from dynaface.core.identity import content_key
from dynaface.core.perform.join import begins_in_body, turns_of_local
from dynaface.core.records.records import Document
from dynaface.core.shapes.regions import FACE
from dynaface.core.snags.snag import Snag
from dynaface.core.snags_body.evidence import BodyEvidence, Shown
from dynaface.core.snags_body.find import BODY_DETECTORS, find_body_snags
from dynaface.services.edit_document import change_document
from dynaface.services.footage.solve_take import CONFIDENCE
from dynaface.services.listed_snags import listed_snags, mend_label, mend_steps, named_snags
from dynaface.services.take.prepare_take import PreparedTake, prepare_take
from dynaface.services.work import Work


def list_body_snags(work: Work, take: str) -> dict[str, Any]:
    """The snags that are open, worst first, those that were dismissed, and the kinds that were looked for; none without a body."""
    prepared = prepare_take(work, take)
    dismissed = prepared.snapshot.documents.join.body.dismissed
    kinds = [d.describe() for d in BODY_DETECTORS.values()]
    return listed_snags(_snags_of(work, prepared), dismissed, kinds, False)


def changes_of_body_mends(work: Work, take: str, keys: Sequence[str]) -> list[dict[str, Any]]:
    """What accepting these mends would change in the join: for a preview."""
    prepared = prepare_take(work, take)
    return _mend_changes(prepared.snapshot.documents.join.body, named_snags(_snags_of(work, prepared), keys))


def mend_body(work: Work, take: str, version: int, keys: Sequence[str]) -> Document[JoinBody]:
    """Accepts the mends of these snags as one change of the join, which can be undone."""
    prepared = prepare_take(work, take)
    chosen = named_snags(_snags_of(work, prepared), keys)
    join = prepared.snapshot.documents.join
    changes = _mend_changes(join.body, chosen)
    return change_document(work, join.id, JoinBody, version, mend_label(chosen), changes)


def _mend_changes(body: JoinBody, chosen: Sequence[Snag]) -> list[dict[str, Any]]:
    """Steps at the end of the body's own, one for each that differs, and settings."""
    wanted = list({content_key(dict(m)): dict(m) for snag in chosen for m in snag.steps}.values())
    if not wanted:
        raise InputError("there is no mend for this", hint="Dismiss it, or put it right by hand")
    settings = [{"path": m["put"], "value": m["value"]} for m in wanted if "put" in m]
    steps = mend_steps(body.tidy, [m for m in wanted if "step" in m])
    return [*settings, *({"path": path_of("tidy", key), "value": step} for key, step in steps.items())]


def _snags_of(work: Work, prepared: PreparedTake) -> tuple[Snag, ...]:
    body, settings = prepared.tidied_body, prepared.snapshot.join
    if body is None:
        return ()
    node = prepared.graph.performed
    plain = prepared.snapshot.documents.join.body
    said = {k: v for k, v in plain.plain().items() if k not in ("dismissed", "tidy")}
    key = content_key("body snags", prepared.body_key, node.key if node else prepared.graph.raw.key, said)

    def look() -> tuple[Snag, ...]:
        raw = prepared.raw
        evidence = BodyEvidence(
            body, begins_in_body(raw, body, settings), float(raw.rate), raw.frames, prepared.contacts, settings,
            _shown(prepared), _lips(work, prepared),
        )  # fmt: skip
        return tuple(find_body_snags(evidence))

    return work.cache.get_or_make(key, look)


def _lips(work: Work, prepared: PreparedTake) -> Array | None:
    """(frames of the take,) how sure its lips are, of a solve of footage; None of other curves."""
    held = prepared.snapshot.documents.sources["curves"]
    with work.store.snapshot() as unit:
        sure = unit.sources.read_block(held.id, CONFIDENCE)
    times = prepared.snapshot.recording.times
    if sure is None or len(sure) != len(times):
        return None
    at = np.arange(prepared.raw.frames) / float(prepared.raw.rate)
    return np.interp(at, times - times[0], sure[:, FACE.index("lips")].astype(np.float64))


def _shown(prepared: PreparedTake) -> Shown | None:
    character = prepared.snapshot.character
    if character is None or character.skeleton is None or prepared.graph.performed is None:
        return None
    rig, made = character.skeleton, prepared.performance
    moved = made.motion(rig)
    return Shown(
        rig,
        turns_of_local(rig, moved.local),
        moved.local,
        moved.root,
        made.root_joint,
        tuple(rig.index(n) for n in prepared.head_joints),
        {j: s.astype(np.float64) for j, s in made.shifts.items()},
    )
