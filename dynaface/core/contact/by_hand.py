"""Contacts as they were set by hand: each is in place of whatever was found there."""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, replace

import numpy as np

from dynaface.core.contact.find_feet import FootContacts, Spans, marked, spans_of

SIDES = ("Left", "Right")


@dataclass(frozen=True)
class SetContact:
    """side: of `SIDES` for a foot, of `TOUCHES` for hands; first, last: seconds of the body take; stands: whether the foot stands there, or is
    free of what was found; over: the span that it came from, in whose place it is as well.
    """

    side: str
    first: float
    last: float
    stands: bool = True
    over: tuple[float, float] | None = None


@dataclass(frozen=True)
class Standing:
    """A span in which a foot stands or a hand touches, in frames. key: of what was set by hand, "" for one that was found."""

    side: str
    first: int
    last: int
    key: str


def of_sides(contacts: Mapping[str, SetContact], sides: Sequence[str]) -> dict[str, SetContact]:
    """Those of some sides: others do not touch what is made of these."""
    return {key: contact for key, contact in contacts.items() if contact.side in sides}


def with_set(found: Sequence[FootContacts], by_hand: Mapping[str, SetContact], rate: float, frames: int) -> tuple[FootContacts, ...]:  # fmt: skip
    """Contacts with those that were set by hand, which are put where what was found touches them. rate, frames: of the body take."""
    return tuple(_one(foot, [s for s in by_hand.values() if s.side == foot.side], rate, frames) for foot in found)


def standing(
    found: Mapping[str, Spans], by_hand: Mapping[str, SetContact], rate: float, frames: int
) -> tuple[Standing, ...]:
    """Every span with what set it, by side and time. found: spans by side."""
    out: list[Standing] = []
    for side, spans in found.items():
        own = {k: s for k, s in by_hand.items() if s.side == side}
        taken = _taken(list(own.values()), rate, frames)
        kept = [Standing(side, a, b, "") for a, b in spans if not _touched((a, b), taken)]
        kept += [Standing(side, *_frames(s, rate, frames), k) for k, s in own.items() if s.stands]
        out += sorted(kept, key=lambda s: s.first)
    return tuple(out)


def _one(found: FootContacts, own: Sequence[SetContact], rate: float, frames: int) -> FootContacts:
    if not own:
        return found
    gone = [span for span in found.foot if _touched(span, _taken(own, rate, frames))]
    heel, toe = (marked(s, frames) & ~marked(gone, frames) for s in (found.heel, found.toe))
    whole = marked([s for s in found.foot if s not in gone], frames)
    for given in own:
        if not given.stands:
            continue
        span = _frames(given, rate, frames)
        heel, toe = heel | _within(found, found.heel, span, frames), toe | _within(found, found.toe, span, frames)
        whole = whole | marked([span], frames)
    return replace(found, heel=spans_of(heel), toe=spans_of(toe), foot=spans_of(whole))


def _within(found: FootContacts, place: Spans, span: tuple[int, int], frames: int) -> np.ndarray:
    """(frames,) of a span in which heel or toe stands: as it was found, beyond that as at the nearest frame that was found to stand, the whole
    foot where none was.
    """
    inside = np.arange(span[0], span[1] + 1)
    out = np.zeros(frames, bool)
    known = np.flatnonzero(marked(found.foot, frames)[inside])
    if not len(known):
        out[inside] = True
        return out
    nearest = np.clip(np.searchsorted(known, np.arange(len(inside))), 0, len(known) - 1)
    before = np.clip(nearest - 1, 0, None)
    closer = np.abs(known[before] - np.arange(len(inside))) < np.abs(known[nearest] - np.arange(len(inside)))
    source = inside[known[np.where(closer, before, nearest)]]
    out[inside] = marked(place, frames)[source]
    return out


def _frames(given: SetContact, rate: float, frames: int) -> tuple[int, int]:
    first = min(max(round(given.first * rate), 0), max(frames - 1, 0))
    return first, min(max(round(given.last * rate), first), max(frames - 1, 0))


def _taken(own: Sequence[SetContact], rate: float, frames: int) -> list[tuple[int, int]]:
    """Spans in whose place those that were set are."""
    spans = [_frames(s, rate, frames) for s in own]
    return spans + [_frames(SetContact(s.side, *s.over), rate, frames) for s in own if s.over]


def _touched(span: tuple[int, int], others: Sequence[tuple[int, int]]) -> bool:
    return any(span[0] <= last and first <= span[1] for first, last in others)
