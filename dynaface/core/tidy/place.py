"""Where a step acts: channels, a range of frames with soft edges, and how much of it is mixed in."""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from typing import Any

import numpy as np
from numpy.typing import NDArray

from dynaface.core import checks
from dynaface.core.curves.channels import Floats
from dynaface.core.errors import InputError
from dynaface.core.numeric.ease import eased
from dynaface.core.shapes.regions import REGION, REGIONS
from dynaface.core.shapes.standard import CHANNELS

MAX_PLACES = 400
MAX_RAMP = 600.0
KEYS = ("places", "ramp", "mix")


@dataclass(frozen=True)
class Place:
    """Channels (all where empty) from `first` to `last` frame, both included (None: to the end of the take)."""

    channels: tuple[str, ...] = ()
    first: int | None = None
    last: int | None = None


@dataclass(frozen=True)
class Coverage:
    """places: where the step acts, everywhere when there are none; ramp: frames of soft edge outside each place;
    mix: 0..1 of the step's result.
    """

    places: tuple[Place, ...] = ()
    ramp: float = 0.0
    mix: float = 1.0

    @property
    def everywhere(self) -> bool:
        """Whether the step's result is taken as it is."""
        return not self.places and self.mix == 1.0

    def weights(self, names: Sequence[str], frames: int) -> NDArray[np.float32]:
        """(frames, channels) of how much of the step's result is taken."""
        if not self.places:
            return np.full((frames, len(names)), self.mix, np.float32)
        out = np.zeros((frames, len(names)), np.float32)
        for place in self.places:
            columns = [i for i, n in enumerate(names) if not place.channels or n in place.channels]
            low, high = self.span(place, frames)
            if high <= low or not columns:
                continue
            # One column is worked out, on the frames that it touches.
            soft = _soft(np.arange(low, high), place, self.ramp)[:, None]
            out[low:high, columns] = np.maximum(out[low:high, columns], soft)
        return out * np.float32(self.mix)

    def span(self, place: Place, frames: int) -> tuple[int, int]:
        """First frame and the frame after the last one that the place touches, ramps included."""
        edge = int(np.ceil(self.ramp))
        low = 0 if place.first is None else max(0, place.first - edge)
        high = frames if place.last is None else min(frames, place.last + edge + 1)
        return low, high

    def windows(self, frames: int, margin: int) -> list[tuple[int, int]]:
        """(first, stop) of the stretches that the places touch, each widened by `beside` frames; none overlap."""
        spans = sorted(self.span(p, frames) for p in self.places)
        out: list[tuple[int, int]] = []
        for low, high in spans:
            low, high = max(0, low - margin), min(frames, high + margin)
            if high <= low:
                continue
            if out and low <= out[-1][1]:
                out[-1] = (out[-1][0], max(out[-1][1], high))
            else:
                out.append((low, high))
        return out

    def describe(self) -> dict[str, Any]:
        """As plain data: only what is not the default."""
        out: dict[str, Any] = {}
        if self.places:
            out["places"] = [{"channels": list(p.channels), "first": p.first, "last": p.last} for p in self.places]
        if self.ramp:
            out["ramp"] = self.ramp
        if self.mix != 1.0:
            out["mix"] = self.mix
        return out


def _soft(frames: NDArray[np.int64], place: Place, ramp: float) -> NDArray[np.float32]:
    out = np.ones(len(frames))
    for edge, way in ((place.first, 1), (place.last, -1)):
        if edge is None:
            continue
        outside = np.maximum((edge - frames) * way, 0)
        out *= eased(1 - outside / (ramp + 1))  # one frame outside a hard edge has nothing
    return out.astype(np.float32)


def mixed(before: Floats, after: Floats, weights: NDArray[np.float32]) -> Floats:
    """`after` where the weight is 1, `before` where it is 0, between them in proportion.

    Where one of the two is a gap, there is nothing to mix: a gap that was filled stays filled.
    """
    with np.errstate(invalid="ignore"):
        between = before + (after - before) * weights
    out = np.where(weights >= 1, after, np.where(weights <= 0, before, between))
    bare = np.isnan(before) & (weights > 0)
    out[bare] = after[bare]
    return np.asarray(out, np.float32)


def parse_coverage(given: Mapping[str, Any]) -> Coverage:
    """From plain data with "places", "ramp" and "mix", all optional; raises InputError."""
    places = given.get("places", [])
    if not isinstance(places, Sequence) or isinstance(places, str) or len(places) > MAX_PLACES:
        raise InputError(f"places must be a list of at most {MAX_PLACES}")
    ramp = checks.within("ramp", given.get("ramp", 0.0), 0, MAX_RAMP)
    return Coverage(tuple(map(_place, places)), ramp, checks.within("mix", given.get("mix", 1.0), 0, 1))


def _place(given: Any) -> Place:
    if not isinstance(given, Mapping) or not set(given) <= {"channels", "regions", "first", "last"}:
        raise InputError(f"a place is {given!r}; it may hold channels, regions, first and last")
    for key in ("channels", "regions"):
        if not isinstance(given.get(key) or [], list | tuple):
            raise InputError(f"{key} of a place are {given[key]!r:.80}; they must be a list of names")
    channels = [checks.one_of("channel", c, CHANNELS) for c in given.get("channels") or ()]
    for region in given.get("regions") or ():
        checks.one_of("region", region, REGIONS)
        channels += [c for c in CHANNELS if REGION[c] == region and c not in channels]
    edges = []
    for name in ("first", "last"):
        value = given.get(name)
        if value is not None and (not isinstance(value, int) or isinstance(value, bool) or not 0 <= value < 1 << 31):
            raise InputError(f"{name} is {value!r}; it must be a frame, counted from 0, or null")
        edges.append(value)
    first, last = edges
    if first is not None and last is not None and last < first:
        raise InputError(f"a place ends at frame {last}, before it begins at {first}")
    return Place(tuple(channels), first, last)
