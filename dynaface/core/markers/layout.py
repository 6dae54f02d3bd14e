"""A marker layout: which marker sits on which place of the face, once for a performer and day."""

from collections.abc import Mapping
from dataclasses import dataclass, field
from typing import Any

import numpy as np
from numpy.typing import NDArray

from dynaface.core import checks
from dynaface.core.errors import InputError
from dynaface.core.markers.chart import MARKS, Chart
from dynaface.core.markers.drive import Drive, parse_drives
from dynaface.core.markers.rigid import fit_rigid
from dynaface.core.markers.take import Array, MarkerTake
from dynaface.core.shapes.sampled import parse_frames


@dataclass(frozen=True)
class Layout:
    """places: label -> place of the chart; labels that are not named are ignored. neutral: first and last frame of a still
    face in the take that the layout was made from; samples: shape -> frame of that take in which it is at its extreme; off:
    labels that are left out of the solve for now; drives: channels that are the distance of two markers.
    """

    places: Mapping[str, str]
    neutral: tuple[int, int] = (0, 0)
    samples: Mapping[str, int] = field(default_factory=dict)
    off: tuple[str, ...] = ()
    drives: Mapping[str, Drive] = field(default_factory=dict)

    @property
    def used(self) -> dict[str, str]:
        """Places of the labels that are not switched off."""
        return {label: place for label, place in self.places.items() if label not in self.off}

    def describe(self) -> dict[str, Any]:
        """As plain data."""
        return {"dynafaceLayout": 1, "places": dict(self.places), "neutral": list(self.neutral),
                "samples": dict(self.samples), "off": list(self.off),
                "drives": {c: d.describe() for c, d in self.drives.items()}}  # fmt: skip


def parse_layout(data: Mapping[str, Any]) -> Layout:
    """A layout from plain data; raises InputError."""
    checks.table("a layout", data)
    for key in data:
        checks.one_of("layout field", key, ("dynafaceLayout", "places", "neutral", "samples", "off", "drives"))
    if data.get("dynafaceLayout", 1) != 1:
        raise InputError(f"this layout is of version {data['dynafaceLayout']!r}; we read version 1")
    places = data.get("places", {})
    if not isinstance(places, Mapping):
        raise InputError("places must be a table of places by marker label")
    for label, place in places.items():
        if not isinstance(label, str) or not 0 < len(label) <= 120:
            raise InputError(f"a marker is named {label!r}", hint="A label has 1 to 120 letters")
        checks.one_of(f"place of {label!r}", place, tuple(MARKS))
    if len(set(places.values())) != len(places):
        raise InputError("two markers of the layout sit on one place", hint="Leave one of them out")
    neutral = data.get("neutral", [0, 0])
    if not isinstance(neutral, list) or len(neutral) != 2 or not all(isinstance(n, int) and n >= 0 for n in neutral):
        raise InputError("neutral must be two frames, the first and the last of a still face")
    samples = parse_frames(data.get("samples", {}))
    off = data.get("off", [])
    if not isinstance(off, list) or not set(map(str, off)) <= set(places):
        raise InputError("off must be a list of labels that the layout places")
    return Layout(dict(places), (neutral[0], neutral[1]), samples, tuple(dict.fromkeys(off)),
                  parse_drives(data.get("drives", {})))  # fmt: skip


def neutral_points(take: MarkerTake, frames: tuple[int, int]) -> Array:
    """(markers, 3) the mean of each marker over frames first..last; NaN for one that is not seen there; raises
    InputError for frames outside of the take."""
    first, last = frames
    if not 0 <= first <= last < take.frames:
        raise InputError(f"the neutral frames {first} to {last} are not in a take of {take.frames} frames")
    return mean_points(take.points, first, last)


def mean_points(points: Array, first: int, last: int) -> Array:
    """(markers, n) the mean of (frames, markers, n) over frames first..last, as far as there are any; NaN for what is not seen there."""
    part = points[max(first, 0) : last + 1]
    count = np.isfinite(part[..., 0]).sum(axis=0)[:, None]
    return np.where(count > 0, np.nansum(part, axis=0) / np.maximum(count, 1), np.nan)


def middle_points(points: Array, first: int, last: int) -> Array:
    """The same, but the median: a frame in which a marker slipped or names were exchanged counts for nothing."""
    part = points[max(first, 0) : last + 1]
    seen = np.isfinite(part[..., 0]).any(axis=0)
    out = np.full(part.shape[1:], np.nan)
    out[seen] = np.nanmedian(part[:, seen], axis=0)
    return out


def stillest(take: MarkerTake, seconds: float = 0.5) -> tuple[int, int]:
    """First and last frame of the first stretch that is about as still as any and shows the most markers."""
    length = max(2, min(round(seconds * float(take.rate)), take.frames))
    if take.frames < 3:
        return 0, take.frames - 1
    pace = np.linalg.norm(np.diff(take.points, axis=0), axis=2)
    known = np.isfinite(pace)
    moved = np.where(
        known.any(axis=1), np.nansum(pace, axis=1) / np.maximum(known.sum(axis=1), 1), np.nanmax(pace, initial=1)
    )
    window = np.ones(length - 1)
    busy = np.convolve(moved, window, "valid") / len(window)
    shown = np.convolve(known.mean(axis=1), window, "valid") / len(window)
    full = shown >= shown.max() - 0.02
    first = int(np.flatnonzero(full & (busy <= 1.3 * busy[full].min()))[0])
    return first, first + length - 1


def laid_over(chart: Chart, places: NDArray[np.integer], points: Array, rounds: int, scaled: bool = False
              ) -> tuple[Array, Array, tuple[Array, Array, float]]:  # fmt: skip
    """(points (n, 3) laid over their places, (places, 3) the chart made alike, the rotation, shift and scale that laid them): in turn
    fitted and made alike.
    """
    target = chart.points
    for _ in range(rounds):
        rotation, shift, scale = fit_rigid(points, target[places], np.ones(len(places)), scaled)
        laid = scale * points @ rotation.T + shift
        target = likened(chart, places, laid)
    return laid, target, (rotation, shift, scale)


def likened(chart: Chart, places: NDArray[np.integer], at: Array) -> Array:
    """(places, 3) of the chart with the likeness that matched places ask for."""
    return chart.points + np.tensordot(likeness_of(chart, places, at), chart.modes, axes=1)


def likeness_of(chart: Chart, places: NDArray[np.integer], at: Array) -> Array:
    """(modes,) amounts of the general head's likenesses that matched places (n,) at points (n, 3) ask for."""
    modes = chart.modes[:, places].reshape(len(chart.modes), -1).T
    left = (at - chart.points[places]).ravel()
    amount = np.linalg.solve(modes.T @ modes + 2e-5 * np.eye(modes.shape[1]), modes.T @ left)
    return np.asarray(np.clip(amount, -2, 2))
