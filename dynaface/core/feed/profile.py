"""What is made of a performer's values while live: their neutral taken out, their extremes made full, the head's zero, strengths,
smoothness, mirror.
"""

from collections.abc import Mapping
from dataclasses import dataclass, field

import numpy as np

from dynaface.core.body.rotations import head_angles, head_rotation, inverse, multiply
from dynaface.core.curves.channels import Floats
from dynaface.core.curves.one_euro import Follower
from dynaface.core.shapes.regions import REGION
from dynaface.core.shapes.standard import CHANNELS, HEAD_ANGLES, PLACE_OF, SHAPES, full_range, mirrored

SMOOTHING = 0.2  # of every region, until it is said otherwise
LEAST = 0.05  # between neutral and extreme: less would make noise of everything
_SHAPES = slice(0, len(SHAPES))
_HEAD = [PLACE_OF[n] for n in HEAD_ANGLES]
_MIRROR = [PLACE_OF[mirrored(n)] for n in CHANNELS]
# Seen in a mirror, left and right change places: what is positive to one side has its sign turned.
_SIGNS = np.array(
    [-1 if n in ("headTurn", "headTilt", "headSide") or n.startswith("gazeTurn") else 1 for n in CHANNELS], np.float32
)
_SCALE = np.array([1 / full_range(n) for n in CHANNELS], np.float32)


@dataclass(frozen=True)
class FeedProfile:
    """neutral: channel -> its value in the performer's neutral face; extremes: shape -> its value at the performer's most; zero: the
    head's turn, nod, tilt in degrees when it looks ahead; strength, smoothing: region -> factor, 0..1; mirror: left for right.
    """

    neutral: Mapping[str, float] = field(default_factory=dict)
    extremes: Mapping[str, float] = field(default_factory=dict)
    zero: tuple[float, float, float] = (0.0, 0.0, 0.0)
    strength: Mapping[str, float] = field(default_factory=dict)
    smoothing: Mapping[str, float] = field(default_factory=dict)
    mirror: bool = False

    def gain(self, shape: str) -> float:
        """The factor by which a shape is multiplied once its neutral is taken out."""
        return 1 / max(self.extremes.get(shape, 1.0) - self.neutral.get(shape, 0.0), LEAST)

    @property
    def plain(self) -> bool:
        """Whether it only smooths."""
        strengths = any(v != 1.0 for v in self.strength.values())
        return not (self.neutral or self.extremes or any(self.zero) or strengths or self.mirror)


class Shaper:
    """A profile at work on rows as they come. Rows are (channels,) float32 in the order of CHANNELS, NaN where nothing is known."""

    def __init__(self, profile: FeedProfile) -> None:
        self._neutral = np.array([profile.neutral.get(n, 0.0) for n in CHANNELS], np.float32)
        self._neutral[_HEAD] = 0  # the head's own zero is a rotation
        self._gain = np.array([profile.gain(n) if n in SHAPES else 1.0 for n in CHANNELS], np.float32)
        self._strength = np.array([profile.strength.get(REGION[n], 1.0) for n in CHANNELS], np.float32)
        self._back = inverse(head_rotation(*(np.array([v]) for v in profile.zero))) if any(profile.zero) else None
        self._mirror = profile.mirror
        amounts = np.array([profile.smoothing.get(REGION[n], SMOOTHING) for n in CHANNELS], np.float32)
        self._follower = Follower(amounts, _SCALE)

    def smoothed(self, made: Floats, seconds: float) -> Floats:
        """(channels,) of what was made, as it is shown, `seconds` after the row before it."""
        return self._follower.follow(made, seconds)

    def made(self, row: Floats) -> Floats:
        """(channels,) as the profile makes it, before it is smoothed."""
        made = (row - self._neutral) * self._gain
        np.maximum(made[_SHAPES], 0, out=made[_SHAPES])
        if self._back is not None and np.isfinite(made[_HEAD]).all():
            head = multiply(self._back, head_rotation(*made[_HEAD, None].astype(np.float64)))
            made[_HEAD] = [float(a[0]) for a in head_angles(head)]
        made *= self._strength
        if self._mirror:
            made = made[_MIRROR] * _SIGNS
        return made


def neutral_of(rows: Floats) -> dict[str, float]:
    """The median of each channel over (rows, channels), where it is known in half of them: the neutral face of a still moment."""
    known = 2 * np.isfinite(rows).sum(axis=0) >= max(len(rows), 1)
    return {n: round(float(np.nanmedian(rows[:, i])), 5) for n, i in PLACE_OF.items() if known[i]}


def zero_of(rows: Floats) -> tuple[float, float, float] | None:
    """The head's angles when it looks ahead, from a still moment as `neutral_of` takes it; None where no head is known."""
    found = neutral_of(rows)
    turn, nod, tilt = (found.get(n) for n in HEAD_ANGLES)
    return None if turn is None or nod is None or tilt is None else (turn, nod, tilt)
