"""Snags of a take: found on its tidied curves, mended, and a whole stack proposed."""

from collections.abc import Sequence
from typing import Any

from dynaface.core.documents.changes import path_of
from dynaface.core.documents.model.take import TakeBody
from dynaface.core.documents.model.tidy import tidy_of
from dynaface.core.errors import InputError
from dynaface.core.identity import content_key
from dynaface.core.records.records import Document
from dynaface.core.snags.find import DETECTORS, find_snags
from dynaface.core.snags.propose import Proposal, joined, propose
from dynaface.core.snags.snag import Evidence, Snag
from dynaface.core.sound.sound import Sound
from dynaface.services.edit_document import change_document
from dynaface.services.listed_snags import listed_snags, mend_label, mend_steps, named_snags
from dynaface.services.load_source import load_sound
from dynaface.services.take.prepare_take import PreparedTake, prepare_take
from dynaface.services.work import Work


def _sound_of(work: Work, prepared: PreparedTake) -> tuple[Sound | None, float, str]:
    """(sound, seconds by which it is later, what it is known by)."""
    source = prepared.snapshot.sound
    if source is None:
        return None, 0.0, ""
    return load_sound(work, source), prepared.take.body.sound_offset, source.id


def snags_of(work: Work, prepared: PreparedTake) -> tuple[Snag, ...]:
    """All snags of a take as it is now, worst first, those that were dismissed included."""
    sound, start, name = _sound_of(work, prepared)
    key = content_key("snags", prepared.graph.tidied.key, name, start)
    return work.cache.get_or_make(key, lambda: tuple(find_snags(Evidence(prepared.tidied, sound, start))))


def list_snags(work: Work, take: str) -> dict[str, Any]:
    """The snags that are open, worst first, those that were dismissed, and the kinds that were looked for.

    How many are open is noted with the curves, for the list of takes.
    """
    prepared = prepare_take(work, take)
    dismissed = prepared.take.body.dismissed
    found = snags_of(work, prepared)
    _note(work, prepared, sum(s.key not in dismissed for s in found))
    kinds = [d.describe() for d in DETECTORS.values()]
    return listed_snags(found, dismissed, kinds, prepared.snapshot.sound is None)


def count_snags(work: Work, take: str) -> None:
    """Notes with the curves how many snags are open, for the list of takes."""
    prepared = prepare_take(work, take)
    dismissed = prepared.take.body.dismissed
    _note(work, prepared, sum(s.key not in dismissed for s in snags_of(work, prepared)))


def _note(work: Work, prepared: PreparedTake, count: int) -> None:
    source = prepared.snapshot.documents.sources["curves"]
    if source.info.get("snags") != count:
        with work.store.unit() as unit:
            unit.sources.note(source.id, snags=count)


def _mend_changes(body: TakeBody, chosen: Sequence[Snag]) -> list[dict[str, Any]]:
    """The changes to a take that mend these snags: steps at the end of its stack, or a sound that is moved."""
    changes: list[dict[str, Any]] = []
    if shift := sum(s.sound_shift for s in chosen):
        changes.append({"path": "soundOffset", "value": round(body.sound_offset + shift, 4)})
    for key, step in mend_steps(body.tidy.steps, joined(chosen)).items():
        changes.append({"path": path_of("tidy", "steps", key), "value": step})
    if not changes:
        raise InputError("there is no mend for this", hint="Dismiss it, or put it right by hand")
    return changes


def changes_of_mends(work: Work, take: str, keys: Sequence[str]) -> list[dict[str, Any]]:
    """What accepting these mends would change in the take: for a preview."""
    prepared = prepare_take(work, take)
    return _mend_changes(prepared.take.body, named_snags(snags_of(work, prepared), keys))


def mend_take(work: Work, take: str, version: int, keys: Sequence[str]) -> Document[TakeBody]:
    """Accepts the mends of these snags as one change, which can be undone."""
    prepared = prepare_take(work, take)
    chosen = named_snags(snags_of(work, prepared), keys)
    changes = _mend_changes(prepared.take.body, chosen)
    return change_document(work, take, TakeBody, version, mend_label(chosen), changes)


def propose_stack(work: Work, take: str) -> dict[str, Any]:
    """A whole stack proposed from what is measured, as the take would hold it, with a reason for each step."""
    prepared = prepare_take(work, take)
    sound, start, name = _sound_of(work, prepared)
    recording = prepared.snapshot.recording
    key = content_key("proposal", prepared.snapshot.documents.sources["curves"].id, name, start)
    made: Proposal = work.cache.get_or_make(key, lambda: propose(recording, sound, start))
    keys = [f"{str(s['step']).split()[0]}{n}" for n, s in enumerate(made.steps, 1)]
    return {"tidy": tidy_of(made.steps, keys).plain(), "reasons": dict(zip(keys, made.reasons, strict=True))}
