"""Words that lead: the capture counts less under what a role says."""

from collections.abc import Sequence
from dataclasses import dataclass

from dynaface.core import checks
from dynaface.core.curves.keys import Keys
from dynaface.core.documents.changes import path_of
from dynaface.core.documents.model.layer import LayerBody
from dynaface.core.documents.model.shot import ShotBody
from dynaface.core.documents.model.weight import check_regions
from dynaface.core.errors import InputError
from dynaface.core.layers.weight import Weight
from dynaface.core.records.records import Document
from dynaface.core.speech.lead import lead
from dynaface.core.speech.words import Word
from dynaface.services.edit_document import change_document
from dynaface.services.key_rows import key_rows
from dynaface.services.shot.snapshot import ShotDocuments, read_shot, role_of
from dynaface.services.shot.surroundings import words_of_role
from dynaface.services.work import Work, document_for


@dataclass(frozen=True)
class Leading:
    """low: what counts under the words, 0..1.5; before, after: seconds of the leads at a usual speed of speech; by: "word" or "phrase";
    within: frames of the shot whose words lead, None for all.
    """

    low: float
    before: float
    after: float
    by: str = "phrase"
    within: tuple[int, int] | None = None


def lead_words(
    work: Work, shot: str, version: int, role: str, regions: Sequence[str], leading: Leading
) -> Document[ShotBody]:
    """The capture's weight on regions goes down under words, in one change; raises InputError where the role says nothing there."""
    check_regions(regions)
    if not regions:
        raise InputError("no region is chosen", hint="Choose lips, jaw or tongue")
    with work.store.snapshot() as unit:
        found = read_shot(work, unit, shot)
    words = _words(found, role, leading)
    capture = role_of(found.shot, role).capture
    changes: list[dict[str, object]] = []
    for region in regions:
        own = capture[region].weight if region in capture else Weight()
        changes.append(
            {"path": path_of("roles", role, "capture", region), "value": _weight(own, words, found.shot.body, leading)}
        )
    return change_document(work, shot, ShotBody, version, f"words lead on {', '.join(regions)}"[:120], changes)


def lead_capture(work: Work, layer: str, version: int, leading: Leading) -> Document[LayerBody]:
    """The other way round: a layer counts less under words, so that the capture leads there."""
    with work.store.snapshot() as unit:
        own = document_for(work, unit, layer, LayerBody)
        found = read_shot(work, unit, own.body.shot)
    words = _words(found, own.body.role, leading)
    change = {"path": "weight", "value": _weight(own.body.weight.weight, words, found.shot.body, leading)}
    return change_document(work, layer, LayerBody, version, f"the capture leads {own.body.name}"[:120], [change])


def _words(found: ShotDocuments, role: str, leading: Leading) -> list[Word]:
    """The words that lead."""
    role_of(found.shot, role)
    checks.one_of("by", leading.by, ("word", "phrase"))
    rate = float(found.shot.body.fps)
    words = words_of_role(found, role)
    if leading.within is not None:
        first, last = (f / rate for f in leading.within)
        words = [w for w in words if first <= (w.first + w.last) / 2 <= last]
    if not words:
        raise InputError("this role says nothing there", hint="Find the words of its sound first")
    return words


def _weight(own: Weight, words: Sequence[Word], shot: ShotBody, leading: Leading) -> dict[str, object]:
    """A weight as plain data with its keys in place of those that it had where the words are; those elsewhere stay."""
    rate = float(shot.fps)
    usual = own.at(shot.frames) if leading.within is not None else None
    high = float(usual[min(max(int(words[0].first * rate) - 1, 0), shot.frames - 1)]) if usual is not None else 1.0
    made = lead(words, rate, shot.frames, leading.low, leading.before, leading.after, leading.by == "word", high)
    kept: Keys = ()
    if leading.within is not None and made:
        kept = tuple(k for k in own.keys if not made[0].frame - 0.5 <= k.frame <= made[-1].frame + 0.5)
    rows = sorted([*made, *kept], key=lambda k: k.frame)
    return {"value": own.value, "keys": key_rows(rows)}
