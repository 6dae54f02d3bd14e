"""A face take and a body take by how the head turns in both.

First roughly, by how fast the head turns about its own axes: that asks neither which way somebody stood nor where zero is. Then by the
shift at which the turns themselves, each against their own mean, lie least apart: there trackers' noise is white.
"""

from dataclasses import replace

import numpy as np
from scipy.interpolate import CubicSpline
from scipy.ndimage import gaussian_filter1d

from dynaface.core.body.rotations import Array, head_rotation, inverse, multiply, normalised
from dynaface.core.body.skeleton import Motion
from dynaface.core.curves.channels import Channels
from dynaface.core.curves.gaps import bridged
from dynaface.core.errors import InputError
from dynaface.core.head.neck import head_chain
from dynaface.core.shapes.standard import HEAD_ANGLES
from dynaface.core.sync.fit import Fit, Numbers, correlated, fitted, standard

RATE = 120.0
BLUR = 0.06  # seconds: what is shorter is noise of the trackers, in speeds
LEAST = 3.0  # seconds of overlap
STILL = 1.0  # degrees a second, root mean square, below which a head does not move
FLOOR, SPAN, MARGIN, APART = 0.3, 0.25, 0.2, 0.25
REACH, STEP = 0.08, 0.004  # seconds about the rough offset, and between two shifts that are tried there


def by_head_motion(face: Channels, body: Motion) -> Fit:
    """Where the body take begins against the face take; raises InputError where one of them saw no head turn."""
    one, other = head_of_face(face), head_of_body(body)
    speeds = _speed(one, float(face.rate)), _speed(other, float(body.rate))
    for speed, whose in zip(speeds, ("face", "body"), strict=True):
        if not len(speed) or np.sqrt((speed**2).sum(axis=1).mean()) < STILL:
            raise InputError(
                f"the {whose} take saw the head do nothing",
                hint="Line up by sound or by timecode; a camera on the head sees no turn",
            )
    rough = fitted(*correlated(standard(speeds[0]), standard(speeds[1]), RATE, LEAST), APART, FLOOR, SPAN, MARGIN)
    return replace(rough, offset=_refined(one, float(face.rate), other, float(body.rate), rough.offset))


def head_of_face(face: Channels) -> Array:
    """(frames, 4) turns of the head; (0, 4) where the take has no head angles."""
    if not any(n in face.names for n in HEAD_ANGLES):
        return np.zeros((0, 4))
    angles = bridged(np.stack([face.column(n) for n in HEAD_ANGLES], axis=1)).astype(np.float64)
    return head_rotation(*angles.T)


def head_of_body(body: Motion) -> Array:
    """(frames, 4) turns of the head as the body looks at rest; (0, 4) without a head."""
    chain = head_chain(body.skeleton)
    if not chain:
        return np.zeros((0, 4))
    rest = body.skeleton.global_rest()[0][chain[-1]]
    return multiply(body.skeleton.pose(body.local, body.root)[0][:, chain[-1]], inverse(rest))


def _speed(turns: Array, rate: float) -> Numbers:
    """(n, 3) degrees a second about the head's own axes at RATE, smoothed."""
    if len(turns) < 3:
        return np.zeros((0, 3))
    step = multiply(inverse(turns[:-1]), turns[1:])
    step = step * np.where(step[:, 3:] < 0, -1.0, 1.0)
    speed = np.degrees(2 * step[:, :3]) * rate
    # Each is of the moment between two frames.
    own = (np.arange(len(speed)) + 0.5) / rate
    times = np.arange(int(len(turns) / rate * RATE)) / RATE
    dense = np.stack([np.interp(times, own, column) for column in speed.T], axis=1)
    return gaussian_filter1d(dense, BLUR * RATE, axis=0, mode="nearest")


def _refined(one: Array, rate: float, other: Array, other_rate: float, rough: float) -> float:
    """The offset near the rough one at which the turns of both lie least apart."""
    times = np.arange(len(one)) / rate - rough
    inside = (times > REACH) & (times < (len(other) - 1) / other_rate - REACH)
    if inside.sum() < LEAST * rate / 2:
        return rough
    mine, at = _about_mean(one[inside]), times[inside]
    first, last = (int(t * other_rate) for t in (at[0] - REACH, at[-1] + REACH))
    low, high = max(first - 2, 0), min(last + 4, len(other))
    path = CubicSpline(np.arange(low, high) / other_rate, _about_mean(other[low:high]), axis=0)
    shifts = np.arange(-REACH, REACH + STEP / 2, STEP)
    costs = []
    for shift in shifts:
        miss = mine - path(at - shift)
        costs.append(float(((miss - miss.mean(axis=0)) ** 2).mean()))
    best = int(np.argmin(costs))
    if not 0 < best < len(costs) - 1:
        return rough
    below, least, above = costs[best - 1 : best + 2]
    curvature = below - 2 * least + above
    return rough + float(shifts[best]) + (0.5 * (below - above) / curvature * STEP if curvature > 0 else 0.0)


def _about_mean(turns: Array) -> Numbers:
    """(n, 3) degrees of rotations (n, 4) about their mean, in its own frame."""
    signed = turns * np.where(turns @ turns[len(turns) // 2] < 0, -1.0, 1.0)[:, None]
    apart = multiply(inverse(normalised(signed.mean(axis=0))), signed)
    apart = apart * np.where(apart[:, 3:] < 0, -1.0, 1.0)
    return np.asarray(np.degrees(2 * apart[:, :3]))
