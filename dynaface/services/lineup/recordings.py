"""What a take recorded, part by part: which sources, how long, by which count."""

from collections.abc import Sequence
from dataclasses import dataclass, replace
from fractions import Fraction
from typing import Any

from dynaface.core.clock.rates import parse_rate
from dynaface.core.clock.timecode import Timecode, parse_timecode
from dynaface.core.documents.model.lineup import PARTS, key_of
from dynaface.core.documents.model.take import TakeBody
from dynaface.core.errors import InputError
from dynaface.core.records.records import Document, Source
from dynaface.services.load_source import load_markers, load_motion
from dynaface.services.work import Work
from dynaface.store.unit import Unit


@dataclass(frozen=True)
class Recorded:
    """A part of a take ("face", "body", "sound"). sources: of the part, the one that says its time first; seconds: how long it is; rate:
    frames a second, None of a sound; timecode: of its first frame; noted: whether a notes sheet says that, and no recording.
    """

    take: Document[TakeBody]
    part: str
    sources: tuple[Source, ...]
    seconds: Fraction
    rate: Fraction | None
    timecode: Timecode | None
    noted: bool = False

    @property
    def key(self) -> str:
        """Its key in a line-up."""
        return key_of(self.take.id, self.part)


def recorded(work: Work, unit: Unit, takes: Sequence[Document[TakeBody]]) -> dict[str, Recorded]:
    """What takes recorded, by key, in the order of the takes."""
    ids = [s for t in takes for s in t.body.sources.held.values()]
    held = {s.id: s for s in unit.sources.many(ids)}
    out = {}
    for take in takes:
        of_take = {k: held[s] for k, s in take.body.sources.held.items() if s in held}
        for part, kinds in PARTS.items():
            found = tuple(of_take[k] for k in kinds if k in of_take and of_take[k].production == take.production)
            if found:
                made = _recorded(work, take, part, found)
                out[made.key] = made
    return out


def _recorded(work: Work, take: Document[TakeBody], part: str, found: tuple[Source, ...]) -> Recorded:
    info = found[0].info
    said = info.get("nominalRate") or info.get("rate")
    rate = None if part == "sound" or not said else parse_rate(said)
    codes = (timecode_of(work, source) for source in found)
    code = next((c for c in codes if c), None)
    noted = code is None and part == "face" and bool(take.body.noted_start)
    if noted:
        code = noted_timecode(take.body, rate)
    seconds = info.get("span") or info.get("seconds") or 0.0
    return Recorded(
        take, part, found, Fraction(seconds).limit_denominator(10**6), rate, code, noted and code is not None
    )


def timecode_of(work: Work, source: Source) -> Timecode | None:
    """The count at a source's first frame, a remainder below a frame included; None where it has none."""
    if source.kind == "body":
        return load_motion(work, source).timecode
    if source.kind == "markers":
        return load_markers(work, source).timecode
    return _noted_with(source.info)


def _noted_with(info: dict[str, Any]) -> Timecode | None:
    if not info.get("timecode"):
        return None
    label = parse_timecode(info["timecode"], parse_rate(info.get("timecodeRate") or info["rate"]))
    return replace(label, fraction=info.get("timecodeFraction") or label.fraction)


def noted_timecode(take: TakeBody, rate: Fraction | None) -> Timecode | None:
    """The start that a notes sheet gives a take, at the rate that it gives or that of the take; None where neither is known or the label
    does not exist at it.
    """
    counted = parse_rate(take.noted_rate) if take.noted_rate else rate
    if counted is None:
        return None
    try:
        return parse_timecode(take.noted_start, counted)
    except InputError:
        return None
