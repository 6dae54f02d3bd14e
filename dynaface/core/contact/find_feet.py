"""When heels and toes stand on the ground: by their height and speed, each with hysteresis, edges where the speed says so best."""

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray
from scipy.ndimage import gaussian_filter1d

from dynaface.core.body.rotations import Array
from dynaface.core.body.skeleton import Motion
from dynaface.core.contact.feet import ADULT, Foot, feet_of, legs_alone
from dynaface.core.curves.known_runs import runs

Spans = tuple[tuple[int, int], ...]
"""(first, last) frames, both of them in contact, in order."""
BLUR = 0.03  # seconds: what is shorter is noise of the suit
SLOW, QUICK = 0.28, 0.55  # metres a second below which a place comes to stand, and above which it leaves
LOW, HIGH = 0.05, 0.09  # metres above the ground, likewise
EDGE, NOISE = 0.08, 1.3  # metres a second at an edge, and how many times as much as what stands seems to move at most
SHORT = 0.05  # seconds below which neither a contact nor a gap is one
NEAR = 1e-6  # of a frame: rounding, not a place between two frames
STILL = 0.25  # metres a second at which what is low says where the ground is


@dataclass(frozen=True)
class FootContacts:
    """heel, toe: spans of each place; foot: of either; floor: metres of the ground."""

    side: str
    heel: Spans
    toe: Spans
    foot: Spans
    floor: float


def retimed(contacts: Sequence[FootContacts], rate: float, seconds: Array, floor: float) -> tuple[FootContacts, ...]:
    """Contacts of a motion at `rate` as they are where it is seen at seconds (frames,) of it, on another ground."""
    exact = seconds * rate
    low, high = np.floor(exact + NEAR).astype(int), np.ceil(exact - NEAR).astype(int)

    def moved(spans: Spans) -> Spans:
        known = marked(spans, spans[-1][1] + 2 if spans else 1)
        there = (low >= 0) & (high < len(known))
        return spans_of(there & known[np.where(there, low, 0)] & known[np.where(there, high, 0)])

    return tuple(FootContacts(c.side, moved(c.heel), moved(c.toe), moved(c.foot), floor) for c in contacts)


def find_foot_contacts(motion: Motion) -> tuple[FootContacts, ...]:
    """Contacts of both feet with level ground; raises InputError without two legs."""
    legs, _ = legs_alone(motion)
    feet = feet_of(legs.skeleton)
    rotations, positions = legs.skeleton.pose(legs.local, legs.root)
    rate = float(motion.rate)
    places = [foot.places(rotations, positions) for foot in feet]
    speeds = [tuple(speed_of(place, rate, BLUR) for place in both) for both in places]
    floor = ground(feet, places, speeds)
    out = []
    for foot, both, quick in zip(feet, places, speeds, strict=True):
        size = foot.leg / ADULT
        heights = both[0][:, 1] - floor, both[1][:, 1] - floor - foot.clear
        heel, toe = (_standing(h / size, s / size, rate) for h, s in zip(heights, quick, strict=True))
        out.append(FootContacts(foot.side, spans_of(heel), spans_of(toe), spans_of(heel | toe), floor))
    return tuple(out)


def speed_of(place: Array, rate: float, blur: float) -> Array:
    """(frames,) units a second of a place (frames, 3), with what is shorter than some seconds evened out."""
    blurred = gaussian_filter1d(place, max(blur * rate, 0.4), axis=0, mode="nearest")
    return np.linalg.norm(np.gradient(blurred, 1 / rate, axis=0), axis=1) if len(place) > 1 else np.zeros(len(place))


def ground(feet: Sequence[Foot], places: Sequence[tuple[Array, Array]], speeds: Sequence[tuple[Array, ...]]) -> float:
    """Metres of the ground: where most of what stands still and low is; of all frames where nothing stands still."""
    heights = np.concatenate(
        [np.concatenate([h[:, 1], t[:, 1] - f.clear]) for f, (h, t) in zip(feet, places, strict=True)]
    )
    still = np.concatenate([np.concatenate([a, b]) for a, b in speeds]) < STILL
    low = heights[still] if still.any() else heights
    if not len(low):
        return 0.0
    least = float(np.percentile(low, 5))
    return float(np.median(low[low < least + LOW]))


def _standing(height: Array, speed: Array, rate: float) -> NDArray[np.bool_]:
    """(frames,) whether a place is in contact; edges lie where it moves faster than what stands seems to, for noise and drift."""
    held = hysteresis((height < LOW) & (speed < SLOW), (height < HIGH) & (speed < QUICK))
    out = np.zeros(len(height), bool)
    if not held.any():
        return out
    edge = EDGE + NOISE * float(np.median(speed[held]))
    least = max(int(SHORT * rate), 2)
    for first, last in _joined(spans_of(held), least):
        inside = np.flatnonzero(speed[first : last + 1] < edge)
        if len(inside) and inside[-1] - inside[0] + 1 >= least:
            out[first + inside[0] : first + inside[-1] + 1] = True
    return out


def hysteresis(begins: NDArray[np.bool_], lasts: NDArray[np.bool_]) -> NDArray[np.bool_]:
    """(n,) runs of `lasts` in which `begins` is true anywhere."""
    out = np.zeros(len(lasts), bool)
    for first, last in spans_of(lasts):
        if begins[first : last + 1].any():
            out[first : last + 1] = True
    return out


def marked(spans: Sequence[tuple[int, int]], frames: int) -> NDArray[np.bool_]:
    """(frames,) what lies in spans: the opposite of `spans_of`."""
    out = np.zeros(frames, bool)
    for first, last in spans:
        out[first : last + 1] = True
    return out


def spans_of(held: NDArray[np.bool_]) -> Spans:
    """Runs of what is true."""
    return tuple((first, stop - 1) for first, stop in runs(held))


def _joined(spans: Spans, least: int) -> Spans:
    """Spans with those joined between which no true gap lies."""
    out: list[tuple[int, int]] = []
    for first, last in spans:
        if out and first - out[-1][1] - 1 < least:
            out[-1] = out[-1][0], last
        else:
            out.append((first, last))
    return tuple(out)
