"""How the hips of a body take drift: feet that stand seem to go, and the ground to rise or sink."""

from dataclasses import replace

import numpy as np
from scipy.ndimage import gaussian_filter1d

from dynaface.core.body.rotations import Array
from dynaface.core.body.skeleton import Motion
from dynaface.core.contact.feet import feet_of, has_feet, legs_alone
from dynaface.core.contact.find_feet import find_foot_contacts

INSIDE = 0.06  # seconds at either edge of a contact that are not believed
BLUR = 0.15  # seconds over which the speed of the drift is evened out
ROUNDS = 3
SLOW = 2.0  # seconds over which the height of the ground is


def drift_of(motion: Motion) -> Array | None:
    """(frames, 3) metres that the hips have drifted, 0 at the beginning on the level and about the middle in height; None where no foot is
    found to stand. Where none stands, drift goes on as it was beside. More contacts are found once a part of it is taken off.
    """
    if not has_feet(motion.skeleton) or motion.frames < 3:
        return None
    out: Array | None = None
    for _ in range(ROUNDS):
        seen = motion if out is None else replace(motion, root=motion.root - out)
        more = _once(seen)
        if more is None:
            break
        out = more if out is None else out + more
    return out


def _once(motion: Motion) -> Array | None:
    legs, _ = legs_alone(motion)
    contacts = {c.side: c for c in find_foot_contacts(motion)}
    rotations, positions = legs.skeleton.pose(legs.local, legs.root)
    frames, rate = motion.frames, float(motion.rate)
    speed, weight = np.zeros((frames, 2)), np.zeros(frames)
    height, low = np.zeros(frames), np.zeros(frames)
    edge = round(INSIDE * rate)
    for foot in feet_of(legs.skeleton):
        heel, ball = foot.places(rotations, positions)
        held = contacts[foot.side]
        for place, spans, clear in ((heel, held.heel, 0.0), (ball, held.toe, foot.clear)):
            for first, last in ((a + edge, b - edge) for a, b in spans if b - a > 3 * edge):
                inner = slice(first, last + 1)
                speed[inner] += _slope(place[inner][:, [0, 2]])
                weight[inner] += 1
                height[inner] += place[inner, 1] - clear
                low[inner] += 1
    known = np.flatnonzero(weight > 0)
    if not len(known):
        return None
    at = np.arange(frames)
    mean = speed[known] / weight[known][:, None]
    going = np.stack([np.interp(at, known, mean[:, axis]) for axis in (0, 1)], axis=1)
    going = gaussian_filter1d(going, BLUR * rate, axis=0, mode="nearest")
    ground = np.interp(at, known, height[known] / low[known])
    ground = gaussian_filter1d(ground, SLOW * rate, mode="nearest")
    way = np.cumsum(going, axis=0) - going[0]
    return np.stack([way[:, 0], ground - np.median(ground[known]), way[:, 1]], axis=1)


def _slope(place: Array) -> Array:
    """(2,) metres a frame of the straight line through places (n, 2)."""
    at = np.arange(len(place)) - (len(place) - 1) / 2
    return np.asarray(at @ place / (at @ at))
