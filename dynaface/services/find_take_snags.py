"""Snags of a take: found on its tidied curves, mended, and a whole stack proposed."""

from collections.abc import Mapping, Sequence
from functools import lru_cache
from typing import Any

from dynaface.core.curves.channels import Channels, Recording
from dynaface.core.documents.changes import applied, changes_for
from dynaface.core.errors import InputError, NotFoundError
from dynaface.core.records.records import Document
from dynaface.core.snags.find import DETECTORS, find_snags
from dynaface.core.snags.propose import joined, propose
from dynaface.core.snags.snag import Evidence, Snag
from dynaface.core.sound.sound import Sound
from dynaface.services.by_identity import Same
from dynaface.services.edit_document import edit_document
from dynaface.services.evaluate_take import Bench, prepare, tidied_channels
from dynaface.services.load_source import load_sound
from dynaface.services.work import Work, source_for

MAX_TOLD = 400


@lru_cache(maxsize=8)
def _found(channels: Same, sound: Same, start: float) -> tuple[Snag, ...]:
    heard: Sound | None = sound.value
    curves: Channels = channels.value
    return tuple(find_snags(Evidence(curves, heard, start)))


def _sound_of(work: Work, bench: Bench) -> tuple[Sound | None, float]:
    held = bench.take.body["sources"].get("sound")
    if not held:
        return None, 0.0
    with work.store.unit() as unit:
        source = source_for(work, unit, held)
    return load_sound(work, source), float(bench.take.body.get("soundOffset", 0.0))


def snags_of(work: Work, bench: Bench) -> tuple[Snag, ...]:
    """All snags of a take as it is now, worst first, those that were dismissed included."""
    sound, start = _sound_of(work, bench)
    return _found(Same(tidied_channels(bench)), Same(sound), start)


def list_snags(work: Work, take: str) -> dict[str, Any]:
    """The snags that are open, worst first, those that were dismissed, and the kinds that were looked for.

    How many are open is noted with the curves, for the list of takes.
    """
    bench = prepare(work, take)
    dismissed = bench.take.body.get("dismissed", {})
    found = snags_of(work, bench)
    unsettled = [s for s in found if s.key not in dismissed]
    _note(work, bench, len(unsettled))
    let_be = [s.describe() | {"reason": dismissed[s.key]["reason"]} for s in found if s.key in dismissed]
    return {
        "snags": [s.describe() for s in unsettled[:MAX_TOLD]],
        "more": max(0, len(unsettled) - MAX_TOLD),
        "dismissed": let_be,
        "kinds": [{"name": d.name, "label": d.label, "help": d.help} for d in DETECTORS.values()],
        "silent": bench.take.body["sources"].get("sound") is None,
    }


def count_snags(work: Work, take: str) -> None:
    """Notes with the curves how many snags are open, for the list of takes."""
    bench = prepare(work, take)
    dismissed = bench.take.body.get("dismissed", {})
    _note(work, bench, sum(s.key not in dismissed for s in snags_of(work, bench)))


def _note(work: Work, bench: Bench, count: int) -> None:
    source = bench.take.body["sources"]["curves"]
    with work.store.unit() as unit:
        held = unit.sources.get(source)
        if held is not None and held.info.get("snags") != count:
            unit.sources.note(source, snags=count)


def _named(work: Work, bench: Bench, keys: Sequence[str]) -> list[Snag]:
    """The snags with these keys; raises NotFoundError for one that is gone."""
    found = {s.key: s for s in snags_of(work, bench)}
    for key in keys:
        if key not in found:
            raise NotFoundError(f"the snag {key!r} is not there any more", hint="The list has been made anew")
    return [found[key] for key in keys]


def _mend_changes(body: Mapping[str, Any], chosen: Sequence[Snag]) -> list[dict[str, Any]]:
    """The changes to a take that mend these snags: steps at the end of its stack, or a sound that is moved."""
    changes: list[dict[str, Any]] = []
    if shift := sum(s.sound_shift for s in chosen):
        changes.append({"path": "soundOffset", "value": round(float(body.get("soundOffset", 0.0)) + shift, 4)})
    steps = joined(chosen)
    order, number = list(body["tidy"]["order"]), 1
    for step in steps:
        while f"mend{number}" in body["tidy"]["steps"] or f"mend{number}" in order:
            number += 1
        order.append(f"mend{number}")
        changes.append({"path": f"tidy/steps/mend{number}", "value": dict(step)})
    if steps:
        changes.append({"path": "tidy/order", "value": order})
    if not changes:
        raise InputError("there is no mend for this", hint="Dismiss it, or put it right by hand")
    return changes


def mended_tidy(work: Work, take: str, keys: Sequence[str]) -> dict[str, Any]:
    """The take's tidy stack as it would be with these mends, as plain data: for a preview."""
    bench = prepare(work, take)
    body = applied(
        bench.take.body, changes_for(bench.take.body, _mend_changes(bench.take.body, _named(work, bench, keys)))
    )
    tidy: dict[str, Any] = body["tidy"]
    return tidy


def mend_take(work: Work, take: str, version: int, keys: Sequence[str]) -> Document:
    """Accepts the mends of these snags as one change, which can be undone."""
    bench = prepare(work, take)
    chosen = _named(work, bench, keys)
    kinds = {s.kind for s in chosen}
    what = next(iter(kinds)) if len(kinds) == 1 else f"{len(kinds)} kinds"
    label = f"mend: {what}" + (f" in {len(keys)} places" if len(keys) > 1 else "")
    return edit_document(work, take, version, label, _mend_changes(bench.take.body, chosen))


def propose_stack(work: Work, take: str) -> dict[str, Any]:
    """A whole stack proposed from what is measured, as the take would hold it, with a reason for each step."""
    bench = prepare(work, take)
    sound, start = _sound_of(work, bench)
    made = _proposed(Same(bench.recording), Same(sound), start)
    keys = [f"{str(s['step']).split()[0]}{n}" for n, s in enumerate(made.steps, 1)]
    tidy = {"order": keys, "steps": {k: dict(s) for k, s in zip(keys, made.steps, strict=True)}}
    return {"tidy": tidy, "reasons": dict(zip(keys, made.reasons, strict=True))}


@lru_cache(maxsize=4)
def _proposed(recording: Same, sound: Same, start: float) -> Any:
    source: Recording = recording.value
    return propose(source, sound.value, start)
