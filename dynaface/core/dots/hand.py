"""What an animator says of followed dots: a dot is here, this stretch is another dot's, this stretch is none, the track breaks here."""

from collections.abc import Iterator, Mapping, Sequence
from copy import copy
from dataclasses import dataclass, replace
from typing import Any

import numpy as np

from dynaface.core import checks
from dynaface.core.dots.dot import DotLayout, Picture
from dynaface.core.dots.measure import Array, measure_dots
from dynaface.core.dots.track import LEAST, TOGETHER, DotTrack, colour_groups
from dynaface.core.errors import InputError
from dynaface.core.track.footage import Footage

PUT, GIVE, DROP, SPLIT = KINDS = ("put", "give", "drop", "split")
FIELDS = {
    PUT: {"kind", "layout", "dot", "frame", "at"},
    GIVE: {"kind", "layout", "dot", "first", "last", "to"},
    DROP: {"kind", "layout", "dot", "first", "last"},
    SPLIT: {"kind", "layout", "dot", "frame"},
}
MAX_CORRECTIONS = 500
AGREES, AGREED = 1.0, 3  # pixels, and frames in a row, after which a carried dot is left to its own track
LOST = 12  # frames after which a carried dot is given up, and its own track left as it was
BACK = 32  # pictures that are held at once on the way back
SHOWN = 0.3  # of a dot's area that is of its colour where there is one
FAR = -1e4  # where a dot is put that must not claim any of a picture


@dataclass(frozen=True)
class Correction:
    """layout, dot: whose; first, last: frames (one and the same for "put" and "split": the first of what comes after); at: (x, y)
    pixels for "put"; to: the dot that the stretch is given to.
    """

    kind: str
    layout: str
    dot: str
    first: int
    last: int
    at: tuple[float, float] = (0.0, 0.0)
    to: str = ""


def parse_correction(data: Any) -> Correction:
    """From plain data (FIELDS); raises InputError."""
    if not isinstance(data, Mapping):
        raise InputError("a correction of dots has a kind and what is corrected")
    kind = checks.one_of("kind of correction", data.get("kind"), KINDS)
    if set(data) != FIELDS[kind]:
        raise InputError(f"a correction {kind!r} holds {', '.join(sorted(map(str, data)))}",
                         hint=f"It must be {', '.join(sorted(FIELDS[kind]))}")  # fmt: skip
    for name in FIELDS[kind] & {"layout", "dot", "to"}:
        if not isinstance(data[name], str) or not 0 < len(data[name]) <= 80:
            raise InputError(f"{name} of a correction is {data[name]!r}; it must be a name")
    first, last = (int(checks.within(n, data.get(n, data.get("frame")), 0, 1e7)) for n in ("first", "last"))
    if last < first:
        raise InputError(f"a correction is of frames {first}..{last}; the first frame must not come after the last")
    at = (0.0, 0.0)
    if kind == PUT:
        given = data["at"]
        if not isinstance(given, list | tuple) or len(given) != 2:
            raise InputError(f"at is {given!r}; it must be two numbers")
        at = (checks.within("at", given[0], 0, 8192), checks.within("at", given[1], 0, 8192))
    return Correction(kind, data["layout"], data["dot"], first, last, at, str(data.get("to", "")))


def corrected(track: DotTrack, layout: DotLayout, corrections: Sequence[Correction], clip: Footage) -> DotTrack:
    """The track as the animator wants it: stretches given away and dropped, then each dot that was put somewhere carried from
    there both ways, until it meets the track as it is, a split, or the next frame at which it was put. Corrections of dots that
    the layout has no more, and of frames beyond the clip, are passed over.
    """
    points, confidence = track.points.copy(), track.confidence.copy()
    label = {name: n for n, name in enumerate(track.labels)}
    frames = len(points)
    mine = [c for c in corrections if c.dot in label and (not c.to or c.to in label) and c.last < frames]
    for c in mine:
        if c.kind == GIVE:
            here, pair = slice(c.first, c.last + 1), [label[c.dot], label[c.to]]
            points[here, pair], confidence[here, pair] = points[here, pair[::-1]], confidence[here, pair[::-1]]
    for c in mine:
        if c.kind == DROP:
            points[c.first : c.last + 1, label[c.dot]] = np.nan
            confidence[c.first : c.last + 1, label[c.dot]] = 0
    track = replace(track, points=points, confidence=confidence)
    for c in (c for c in mine if c.kind == PUT):
        others = [o for o in mine if o.dot == c.dot and o is not c and o.kind in (PUT, SPLIT)]
        stop = min((o.first for o in others if o.first > c.first), default=frames)
        back = max((o.first + (o.kind == PUT) for o in others if o.first + (o.kind == PUT) <= c.first), default=0)
        follower = _begun(track, layout, c, clip)
        for over in (range(c.first + 1, stop), range(c.first - 1, back - 1, -1)):
            _carry(track, copy(follower), clip, over)
    return track


def _begun(track: DotTrack, layout: DotLayout, put: Correction, clip: Footage) -> "_OneDot":
    """A follower that begins where a dot was put; the track is written there."""
    dot = track.labels.index(put.dot)
    alike = next(g for g in colour_groups(layout.dots, layout.tolerance) if dot in g)
    follower = _OneDot(layout, dot, alike)
    seen = follower.begin(next(clip.pictures(put.first)), np.array(put.at), track.points[put.first])
    _write(track, put.first, dot, seen, 1.0, follower.rivals)
    return follower


def _carry(track: DotTrack, follower: "_OneDot", clip: Footage, over: range) -> None:
    """Follows a dot over the frames, into the track."""
    dot, met, lost = follower.dot, 0, []
    for frame, picture in _pictures(clip, over):
        own, sure = track.points[frame, dot].copy(), track.confidence[frame, dot]
        seen, confidence = follower.add(picture, track.points[frame])
        if confidence <= 0:
            lost.append(frame)
            if len(lost) > LOST:
                return
            continue
        met = met + 1 if sure > 0 and np.linalg.norm(own - seen) < AGREES else 0
        if met >= AGREED:
            return
        # Hidden for a while only: what the track said meanwhile was not this dot.
        for hidden in lost:
            _write(track, hidden, dot, np.full(2, np.nan), 0.0, [])
        lost = []
        _write(track, frame, dot, seen, confidence, follower.rivals)


def _write(track: DotTrack, frame: int, dot: int, at: Array, confidence: float, rivals: list[int]) -> None:
    """Where a dot is by hand, another of its colour that was followed there is not."""
    track.points[frame, dot], track.confidence[frame, dot] = at, confidence
    for other in rivals:
        track.points[frame, other], track.confidence[frame, other] = np.nan, 0


def _pictures(clip: Footage, over: range) -> Iterator[tuple[int, Picture]]:
    """Frames with their pictures, forward or back."""
    if over.step > 0:
        yield from zip(over, clip.pictures(over.start), strict=False)
        return
    for last in range(over.start, over.stop, -BACK):
        first = max(last - BACK + 1, over.stop + 1)
        held = list(zip(range(first, last + 1), clip.pictures(first), strict=False))
        yield from reversed(held)


class _OneDot:
    """Follows one dot of a layout while those of its colour are where their tracks say; its own track, where it is elsewhere, is
    most likely on another of them and claims that one too.
    """

    def __init__(self, layout: DotLayout, dot: int, alike: list[int]) -> None:
        self.dot, self.alike = dot, alike
        own = layout.dots[dot]
        self.radius = np.full(1 + len(alike), own.radius)
        colour = np.array(own.colour)
        self.shares = np.repeat(colour[None] / max(colour.sum(), 1), 1 + len(alike), axis=0)
        self.tolerance = layout.tolerance
        self.near = np.zeros((1 + len(alike), 1 + len(alike)), bool)
        self.near[0, 1:] = True
        self.pace, self.lost = np.zeros(2), 0
        self.rivals: list[int] = []  # other dots whose tracks lie on this one

    def begin(self, picture: Picture, at: Array, others: Array) -> Array:
        """Where the dot is in the picture in which it was put: its centre where there is one, else the place itself."""
        centre, mass = self._look(picture, at, others)
        area = np.pi * self.radius[0] ** 2
        near = mass > SHOWN * area and np.linalg.norm(centre - at) < 1.5 * self.radius[0]
        self.expected = mass if near else 2 * SHOWN * area
        self.last = centre if near else at
        return np.asarray(self.last)

    def add(self, picture: Picture, others: Array) -> tuple[Array, float]:
        """(place, confidence) in the next picture."""
        centre, mass = self._look(picture, self.last + self.pace, others)
        confidence = float(np.clip((mass / self.expected - LEAST) / 0.4, 0, 1))
        if confidence > 0:
            self.pace, self.last, self.lost = 0.6 * (centre - self.last), centre, 0
        else:
            self.pace, self.lost = np.zeros(2), self.lost + 1
        return centre, confidence

    def _look(self, picture: Picture, wanted: Array, others: Array) -> tuple[Array, float]:
        on = np.linalg.norm(others[self.alike] - wanted, axis=1) < 2 * TOGETHER * self.radius[0]
        # One that is lost, or that follows this very dot, claims nothing of the picture.
        held = np.where((on | np.isnan(others[self.alike, 0]))[:, None], FAR, others[self.alike])
        places = np.concatenate([wanted[None], held])
        loose = np.ones(len(places))
        loose[0] += min(self.lost, LOST) / 4
        centre, mass = measure_dots(picture, places, self.radius, loose, self.shares, self.tolerance, self.near)
        there = np.linalg.norm(others[self.alike] - centre[0], axis=1) < TOGETHER * self.radius[0]
        self.rivals = [n for n, is_there in zip(self.alike, there, strict=True) if is_there and n != self.dot]
        return centre[0], float(mass[0])
