"""All recordings of a moment on one clock: where each begins against the first, found pair by pair in whichever way is surest."""

from collections.abc import Callable, Sequence
from dataclasses import dataclass
from functools import cached_property
from itertools import combinations

import numpy as np

from dynaface.core import checks
from dynaface.core.body.skeleton import Motion
from dynaface.core.clock.timecode import Timecode
from dynaface.core.curves.channels import Channels
from dynaface.core.errors import InputError
from dynaface.core.sound.sound import Sound
from dynaface.core.sync.claps import Claps, by_claps, claps_of_body, claps_of_sound
from dynaface.core.sync.curves import by_lids_and_jaw
from dynaface.core.sync.fit import Fit, FitPicture, picture_of
from dynaface.core.sync.lips_to_sound import by_lips
from dynaface.core.sync.motion import by_head_motion
from dynaface.core.sync.sounds import by_sound
from dynaface.core.sync.timecode_offset import timecode_offset

MOST = 24  # recordings at once


@dataclass(frozen=True)
class Source:
    """A recording of the moment: a face, a body or a sound; timecode of its first frame where it has one."""

    name: str
    timecode: Timecode | None = None
    face: Channels | None = None
    body: Motion | None = None
    sound: Sound | None = None

    @cached_property
    def claps(self) -> Claps | None:
        """The claps that it heard or saw; None of a face."""
        if self.sound:
            return claps_of_sound(self.sound)
        return claps_of_body(self.body) if self.body else None


@dataclass(frozen=True)
class Placed:
    """picture: how it lay against that source; start: seconds after the first source's beginning, None where nothing says; how: the way in which it was found, "first" for the first
    one; against: the name of the source that it was lined up with; drift: parts of a million by which its seconds last longer.
    """

    name: str
    start: float | None
    how: str
    confidence: float
    drift: float = 0.0
    against: str = ""
    picture: FitPicture | None = None


def _by_timecode(one: Source, other: Source) -> Fit | None:
    behind = timecode_offset(one.timecode, other.timecode)
    return None if behind is None else Fit(-behind, 1.0, np.zeros(0), np.zeros(0))


def _by_sound(one: Source, other: Source) -> Fit | None:
    return by_sound(one.sound, other.sound) if one.sound and other.sound else None


def _by_motion(one: Source, other: Source) -> Fit | None:
    return by_head_motion(one.face, other.body) if one.face and other.body else None


def _by_curves(one: Source, other: Source) -> Fit | None:
    return by_lids_and_jaw(one.face, other.face) if one.face and other.face else None


def _by_lips(one: Source, other: Source) -> Fit | None:
    return by_lips(one.face, other.sound) if one.face and other.sound else None


def _by_clap(one: Source, other: Source) -> Fit | None:
    # Two sounds have more than their claps in common, which says more.
    return by_claps(one.claps, other.claps) if one.body and one.claps and other.claps else None


WAYS: dict[str, Callable[[Source, Source], Fit | None]] = {
    "timecode": _by_timecode, "sound": _by_sound, "motion": _by_motion, "curves": _by_curves, "clap": _by_clap, "lips": _by_lips,
}  # fmt: skip
"""Ways of lining two sources up, by name, the surest kind first; None where the sources, in this order, have nothing that it compares."""


_RANK = {name: rank for rank, name in enumerate(WAYS)}


def turned_round(fit: Fit) -> Fit:
    """The fit of the first recording against the second."""
    return Fit(-fit.offset, fit.confidence, -fit.lags[::-1], fit.scores[::-1], -fit.drift)


def fit_of(one: Source, other: Source, by: str = "auto") -> tuple[str, Fit] | None:
    """(way, fit) of two sources in the surest of all ways, or in the one that is named; None where none applies."""
    ways = WAYS if by == "auto" else {checks.one_of("by", by, WAYS): WAYS[by]}
    best: tuple[str, Fit] | None = None
    for name, way in ways.items():
        try:
            found = way(one, other)
            if found is None and (back := way(other, one)) is not None:
                found = turned_round(back)
        except InputError:
            continue  # too short, silent, or still: another way may do
        if found is not None and (best is None or found.confidence > best[1].confidence):
            best = name, found
        if best is not None and best[1].confidence >= 1:
            break
    return best


def line_up(
    sources: Sequence[Source], by: str = "auto", between: Callable[[float], None] = lambda part: None
) -> list[Placed]:
    """Where each source begins against the first. The surest pairs are joined first; a source that fits none surely is placed by its best
    fit, with the confidence that it has, and left out where nothing speaks of it. between: called with the part of the work that is done,
    and may raise. Raises InputError for fewer than two or too many.
    """
    if not 2 <= len(sources) <= MOST:
        raise InputError(f"{len(sources)} recordings cannot be lined up", hint=f"Give 2 to {MOST}")
    all_pairs = list(combinations(range(len(sources)), 2))
    pairs = {}
    for number, (i, j) in enumerate(all_pairs):
        between(number / len(all_pairs))
        if (found := fit_of(sources[i], sources[j], by)) is not None:
            pairs[i, j] = found
    placed = {0: Placed(sources[0].name, 0.0, "first", 1.0)}
    while True:
        open_pairs = [(key, found) for key, found in pairs.items() if (key[0] in placed) != (key[1] in placed)]
        if not open_pairs:
            break
        (i, j), (how, fit) = max(open_pairs, key=lambda pair: (pair[1][1].confidence, -_RANK[pair[1][0]]))
        if i not in placed:
            i, j, fit = j, i, turned_round(fit)
        anchor = placed[i]
        assert anchor.start is not None
        sure = min(anchor.confidence, fit.confidence)
        drift, picture = anchor.drift + fit.drift, picture_of(fit)
        placed[j] = Placed(sources[j].name, anchor.start + fit.offset, how, sure, drift, sources[i].name, picture)
    return [placed.get(n, Placed(s.name, None, "", 0.0)) for n, s in enumerate(sources)]
