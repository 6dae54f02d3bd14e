"""Dots followed from picture to picture, to a part of a pixel: each in a small window about where it must be next."""

from collections.abc import Iterable, Sequence
from dataclasses import dataclass, replace

import numpy as np
from numpy.typing import NDArray
from scipy.optimize import linear_sum_assignment

from dynaface.core.curves.known_runs import runs
from dynaface.core.dots.dot import Dot, DotLayout, Picture, blobs
from dynaface.core.dots.measure import Array, measure_dots
from dynaface.core.errors import InputError

LEAST = 0.25  # of the colour that a dot showed when it was picked: with less it is lost
FOLLOW = 0.02  # how fast the colour mass that is expected follows what is seen
NEAR = 0.06  # of the picture's height between where a dot was picked and where it is in another take
TOGETHER = 1.0  # radii: two tracks this near have run into one dot


@dataclass(frozen=True)
class DotTrack:
    """points: (frames, dots, 2) pixels, NaN where a dot is not seen; confidence: (frames, dots) 0..1; swaps: (label, label, first,
    last) of tracks that had changed places and were changed back.
    """

    labels: tuple[str, ...]
    points: Array
    confidence: Array
    swaps: tuple[tuple[str, str, int, int], ...] = ()


def find_dots(picture: Picture, layout: DotLayout) -> tuple[Array, NDArray[np.bool_]]:
    """((dots, 2) pixels of the layout's dots in another picture of the same camera, (dots,) whether each was found).

    Blobs of each colour are matched to the layout by place, after the shift that most of them agree on.
    Raises InputError where none is found.
    """
    at = np.array([d.at for d in layout.dots], float)
    reach = NEAR * layout.size[1]
    seen: list[tuple[int, tuple[float, float]]] = []
    groups = colour_groups(layout.dots, layout.tolerance)
    for number, group in enumerate(groups):
        colour = np.mean([layout.dots[i].colour for i in group], axis=0)
        radius = float(np.median([layout.dots[i].radius for i in group]))
        seen += [(number, spot) for spot in blobs(picture, colour, layout.tolerance, radius)]
    if not seen:
        raise InputError("none of the layout's dots is in the picture", hint="Are these the dots of this day?")
    spots, kinds = np.array([s for _, s in seen]), np.array([k for k, _ in seen])
    own = np.empty(len(at), int)
    for number, group in enumerate(groups):
        own[group] = number
    apart = spots[None] - at[:, None]
    match = own[:, None] == kinds[None]
    steps = apart[match & (np.linalg.norm(apart, axis=2) < 4 * reach)]
    votes = (
        (np.linalg.norm(steps[:, None] - steps[None], axis=2) < 0.4 * reach).sum(axis=1) if len(steps) else np.zeros(0)
    )
    shift = steps[np.argmax(votes)] if len(steps) else np.zeros(2)
    cost = np.where(match, np.linalg.norm(apart - shift, axis=2), np.inf)
    rows, columns = linear_sum_assignment(np.minimum(cost, 10 * reach))
    found, good = at + shift, np.zeros(len(at), bool)
    for row, column in zip(rows, columns, strict=True):
        if cost[row, column] < reach:
            found[row], good[row] = spots[column], True
    return found, good


def colour_groups(dots: Sequence[Dot], tolerance: float) -> list[list[int]]:
    """Numbers of the dots that are of one colour."""
    shares = [np.array(d.colour) / max(sum(d.colour), 1) for d in dots]
    out: list[list[int]] = []
    for number, share in enumerate(shares):
        group = next((g for g in out if np.abs(shares[g[0]] - share).sum() < tolerance), None)
        if group is None:
            out.append([number])
        else:
            group.append(number)
    return out


class DotFollower:
    """Follows the dots of a layout; `start`: (dots, 2) where they are in the first picture."""

    def __init__(self, layout: DotLayout, start: Array) -> None:
        self.layout, self.last, self.pace = layout, start.astype(float).copy(), np.zeros_like(start, float)
        self.radius = np.array([d.radius for d in layout.dots])
        colours = np.array([d.colour for d in layout.dots], float)
        self.shares, self.tolerance = colours / np.maximum(colours.sum(axis=1, keepdims=True), 1), layout.tolerance
        self.expected = np.zeros(len(start))
        self.alike = np.zeros((len(start), len(start)), bool)
        for group in colour_groups(layout.dots, layout.tolerance):
            self.alike[np.ix_(group, group)] = True
        np.fill_diagonal(self.alike, False)
        self.lost = np.zeros(len(start), int)
        self.first = True

    def add(self, picture: Picture) -> tuple[Array, Array]:
        """((dots, 2) pixels, (dots,) confidence) in the next picture."""
        wanted = self.last + self.pace
        loose = 1.0 + np.minimum(self.lost, 12) / 4  # a dot that is lost is looked for farther away
        centre, mass = measure_dots(picture, wanted, self.radius, loose, self.shares, self.tolerance, self.alike)
        if self.first:
            self.expected = np.maximum(mass, np.pi * self.radius**2 * 0.3)
        share = mass / self.expected
        confidence = np.clip((share - LEAST) / 0.4, 0, 1)
        confidence[self._merged(centre, share)] = 0
        seen = confidence > 0
        step = np.where(seen[:, None], centre - self.last, np.nan)
        common = np.nanmedian(step, axis=0) if seen.any() else np.zeros(2)
        self.pace = np.where(seen[:, None], 0.6 * (centre - self.last), 0.0)
        self.last = np.where(seen[:, None], centre, self.last + common)
        self.expected = np.where(seen, self.expected + FOLLOW * (mass - self.expected), self.expected)
        self.lost = np.where(seen, 0, self.lost + 1)
        self.first = False
        return np.where(seen[:, None], centre, np.nan), confidence

    def _merged(self, centre: Array, share: Array) -> NDArray[np.bool_]:
        """Of two tracks that have run into one dot, the one that was farther from where it should be."""
        out = np.zeros(len(centre), bool)
        apart = np.linalg.norm(centre[:, None] - centre[None], axis=2)
        strayed = np.linalg.norm(centre - self.last - self.pace, axis=1)
        for one, other in zip(
            *np.nonzero(np.triu(self.alike) & (apart < TOGETHER * self.radius[:, None])), strict=True
        ):
            out[one if strayed[one] > strayed[other] else other] = True
        return out


def follow_dots(pictures: Iterable[Picture], layout: DotLayout) -> DotTrack:
    """The layout's dots in each picture (height, width, 3) of a clip; raises InputError where they
    are not found in the first."""
    follower: DotFollower | None = None
    points, confidence = [], []
    for picture in pictures:
        if follower is None:
            if picture.shape[1::-1] != layout.size:
                raise InputError(f"the clip is {picture.shape[1]} x {picture.shape[0]} pixels, the dots were picked in {layout.size[0]} x {layout.size[1]}",
                                 hint="Pick the dots in a clip of this camera")  # fmt: skip
            follower = DotFollower(layout, find_dots(picture, layout)[0])
        at, sure = follower.add(picture)
        points.append(at)
        confidence.append(sure)
    if not points:
        raise InputError("the clip has no pictures")
    track = DotTrack(tuple(d.label for d in layout.dots), np.array(points), np.array(confidence))
    return changed_back(track, layout)


def changed_back(track: DotTrack, layout: DotLayout) -> DotTrack:
    """The track with dots of one colour changed back where they had changed places: their order says so."""
    points, confidence, swaps = track.points.copy(), track.confidence.copy(), []
    at = np.array([d.at for d in layout.dots])
    for group in colour_groups(layout.dots, layout.tolerance):
        for i, one in enumerate(group):
            for other in group[i + 1 :]:
                rest = at[other] - at[one]
                if np.linalg.norm(rest) > 0.2 * layout.size[1]:
                    continue
                along = (points[:, other] - points[:, one]) @ rest
                for first, stop in runs(np.nan_to_num(along, nan=1.0) < 0):
                    points[first:stop, [one, other]] = points[first:stop, [other, one]]
                    confidence[first:stop, [one, other]] = confidence[first:stop, [other, one]]
                    swaps.append((track.labels[one], track.labels[other], first, stop - 1))
    return replace(track, points=points, confidence=confidence, swaps=tuple(swaps))
