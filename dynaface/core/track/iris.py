"""Where the eyes look: the iris followed on the eyeball itself.

A picture is carried onto the sphere of each eyeball, in degrees of turn and nod; there a look is a shift. What is followed is how bright
the neutral eye is from the middle of its iris outwards: pupil, iris, rim and white. Lids and lashes cover the most of it and move with
looks, so that what does not fit counts for no more than a little.
"""

from dataclasses import dataclass

import cv2
import numpy as np
from numba import njit
from numpy.typing import NDArray

from dynaface.core.track.camera import Camera, Pose
from dynaface.core.track.head import Array

DEGREE = 0.6  # degrees a pixel
TURN, NOD = 66.0, 40.0  # reach to either side
RINGS = 36  # of a degree each about the middle of the iris: the iris with its rim and some white
SEEN = 0.55  # of the half height between the landmarks of the lids that is surely eye
ASIDE = 40.0  # degrees to either side of the iris within which it is
OFF = 6.0  # degrees by which the landmark of the iris may be off
FITS = 0.22  # of the eye's contrast by which a pixel may differ and still fit
SKIN = 29.0  # degrees above and below the middle from where on there is skin, whatever the eye does
FARTHEST = 45.0, 30.0  # degrees of turn and nod that eyes reach
BESIDE, PAD = (
    1e6,
    200,
)  # what stands beside a picture, and how wide: eyes' farthest looks, a disc and the landmark's error fit in
COARSE = 3  # pixels of a step of the first search
FAR = 0.03  # of what a pixel may cost at most, for a look as far as eyes reach: of two that fit as well the nearer is believed
COMMON = 0.15  # what a ring says that is as bright as skin: it is found on any lid
SHARE = 0.5  # of the neutral eye's pixels that fit: where it is fewer, it is believed less
# Landmarks of the iris and of the upper and lower lid above and below it, of the left eye and the right.
MIDDLES, UPPER, LOWER = (473, 468), (386, 159), (374, 145)


@dataclass(frozen=True)
class Look:
    """turn, nod: degrees from the neutral look (turn to the performer's left, nod up); alike: -1..1."""

    turn: float
    nod: float
    alike: float


@dataclass(frozen=True)
class Slit:
    """The open eye in degrees on the ball: turn and nod of the iris, nod of the middle between the lids and half their distance."""

    turn: float
    nod: float
    middle: float
    half: float


def _ball(centre: Array, radius: float) -> Array:
    """(rows, columns, 3) places on the eyeball in head space; rows from the top."""
    turn = np.radians(np.arange(-TURN, TURN + 1e-6, DEGREE))
    nod = np.radians(np.arange(NOD, -NOD - 1e-6, -DEGREE))
    nods, turns = np.meshgrid(nod, turn, indexing="ij")
    away = np.stack([np.sin(turns) * np.cos(nods), np.sin(nods), np.cos(turns) * np.cos(nods)], axis=-1)
    return centre + radius * away


class IrisFinder:
    """Follows one eye; `centre` (3,) and radius of its ball in head space, metres: where the radius is not the head's own, a look
    moves as the head turns.
    """

    def __init__(self, centre: Array, radius: float) -> None:
        self._centre, self._radius = centre, radius
        self._ball = _ball(centre, radius)

    def carried(self, picture: NDArray[np.uint8], camera: Camera, pose: Pose) -> NDArray[np.float32]:
        """The picture (height, width) grey on the ball."""
        maps = camera.project(pose.see(self._ball)).astype(np.float32)
        return cv2.remap(picture, maps[..., 0], maps[..., 1], cv2.INTER_LINEAR).astype(np.float32)

    def slit(self, marks: Array, eye: int) -> Slit:
        """Where the neutral eye stands open. marks: (478, 2) millimetres of the landmarks in head space; eye: 0 left, 1 right."""
        aside, up = (marks[[MIDDLES[eye], UPPER[eye], LOWER[eye]]].T / 1000 - self._centre[:2, None]) / self._radius
        nod, top, bottom = np.degrees(np.arcsin(np.clip(up, -0.7, 0.7)))
        turn = np.degrees(np.arcsin(np.clip(aside[0] / np.cos(np.radians(nod)), -0.5, 0.5)))
        middle = np.clip((top + bottom) / 2, -NOD / 2, NOD / 2)
        return Slit(float(turn), float(nod), float(middle), float(max(top - bottom, 4.0) / 2))

    def learn(self, neutral: NDArray[np.float32], slit: Slit) -> None:
        """Takes the iris from the neutral picture on the ball, where the eye stands open."""
        rows, columns = neutral.shape
        row, column = (rows - 1) / 2 - slit.middle / DEGREE, (columns - 1) / 2 + slit.turn / DEGREE
        y, x = np.mgrid[0:rows, 0:columns]
        eye = (np.abs(y - row) * DEGREE < SEEN * slit.half) & (np.abs(x - column) * DEGREE < ASIDE)
        low, high = np.quantile(neutral[eye], (0.05, 0.95))
        self._fits = max(FITS * float(high - low), 6.0)
        self._skin = np.abs(y - (rows - 1) / 2) * DEGREE > SKIN
        self._light = max(float(np.median(neutral[self._skin])), 1.0)
        places, grey = np.argwhere(eye).astype(np.float32), neutral[eye]
        off = np.arange(-OFF, OFF + 1e-6, 2 * DEGREE) / DEGREE
        start = np.array([(rows - 1) / 2 - slit.nod / DEGREE, column])
        tried = [start + (dy, dx) for dy in off for dx in off]
        found = [_rings_about(places, grey, at, self._fits) for at in tried]
        best = min(range(len(tried)), key=lambda n: found[n][1])
        rings = found[best][0]
        says = np.clip(2 * np.abs(rings - self._light) / max(float(high - low), 1.0), COMMON, 1.0)
        self._middle = (round(float(tried[best][0])), round(float(tried[best][1])))
        self._discs = {step: _disc(rings, says, step) for step in (1, COARSE)}
        self._share = max(self._judge(_padded(neutral), self._middle, 1.0)[1], 0.05)

    def find(self, ball: NDArray[np.float32]) -> Look:
        """The look in a picture on the ball (rows, columns), grey."""
        light = float(np.clip(np.median(ball[self._skin]) / self._light, 0.3, 3.0))
        padded = _padded(ball)
        tall, wide = (round(reach / DEGREE) // COARSE for reach in FARTHEST[::-1])
        coarse = self._costs(padded, self._middle, tall, wide, COARSE, light)
        down, aside = _least(coarse)
        near = self._middle[0] + (down - tall) * COARSE, self._middle[1] + (aside - wide) * COARSE
        # One more on each side than is searched: a peak needs both its neighbours.
        fine = self._costs(padded, near, COARSE + 1, COARSE + 1, 1, light)
        down, aside = _least(fine[1:-1, 1:-1])
        at = near[0] + down - COARSE, near[1] + aside - COARSE
        dx, dy = _peak(-fine, down + 1, aside + 1)
        alike, share = self._judge(padded, at, light)
        alike *= min(1.0, share / (SHARE * self._share))
        return Look((at[1] + dx - self._middle[1]) * DEGREE, (self._middle[0] - at[0] - dy) * DEGREE, alike)

    def _costs(self, padded: NDArray[np.float32], at: tuple[int, int], tall: int, wide: int, step: int, light: float
               ) -> NDArray[np.float32]:  # fmt: skip
        """(2 tall + 1, 2 wide + 1) what looks about a place cost, every `step` pixels."""
        disc, most = self._discs[step], self._fits * light
        window = _window(padded, at, tall + len(disc.grey) // 2, wide + len(disc.grey) // 2, step)
        costs: NDArray[np.float32] = _misfit(window, disc.grey * np.float32(light), disc.says, np.float32(most))
        aside = at[1] - self._middle[1] + step * np.arange(-wide, wide + 1)
        down = at[0] - self._middle[0] + step * np.arange(-tall, tall + 1)
        return costs + (FAR * most * (DEGREE / FARTHEST[0]) ** 2 * (down[:, None] ** 2 + aside**2)).astype(np.float32)

    def _judge(self, padded: NDArray[np.float32], at: tuple[int, int], light: float) -> tuple[float, float]:
        """How well the iris explains what fits it at a place: (correlation, share of its pixels that fit)."""
        disc = self._discs[1]
        seen = _window(padded, at, len(disc.grey) // 2, len(disc.grey) // 2, 1)
        use = (disc.says > 0) & (seen < BESIDE)
        seen, wanted = seen[use], disc.grey[use] * light
        fits = np.abs(seen - wanted) < self._fits * light
        if fits.sum() < 20 or wanted[fits].std() < 1e-3 or seen[fits].std() < 1e-3:
            return 0.0, float(fits.mean()) if use.any() else 0.0
        return float(np.corrcoef(wanted[fits], seen[fits])[0, 1]), float(fits.mean())


@dataclass(frozen=True)
class _Disc:
    """An iris every so many pixels: how bright it is, and what each pixel says, 0 beside it, 1 together."""

    grey: NDArray[np.float32]
    says: NDArray[np.float32]


def _disc(rings: NDArray[np.float32], says: Array, step: int) -> _Disc:
    """The disc of rings, of which each says something."""
    reach = int((RINGS - 1) / DEGREE) // step * step
    y, x = np.mgrid[-reach : reach + 1 : step, -reach : reach + 1 : step]
    ring = np.hypot(y, x) * DEGREE
    own = np.where(ring < RINGS - 1, says[np.minimum(ring.astype(int), RINGS - 1)], 0)
    grey = np.interp(ring, np.arange(RINGS) + 0.5, rings)
    return _Disc(grey.astype(np.float32), (own / own.sum()).astype(np.float32))


def _least(costs: NDArray[np.float32]) -> tuple[int, int]:
    """Row and column of the least."""
    row, column = np.unravel_index(np.argmin(costs), costs.shape)
    return int(row), int(column)


def _padded(ball: NDArray[np.float32]) -> NDArray[np.float32]:
    """The picture with so much beside it that no search leaves it."""
    return np.pad(ball, PAD, constant_values=BESIDE)


def _window(padded: NDArray[np.float32], at: tuple[int, int], tall: int, wide: int, step: int) -> NDArray[np.float32]:
    """(2 tall + 1, 2 wide + 1) of a padded picture about a place of the picture, every `step` pixels."""
    row, column = at[0] + PAD, at[1] + PAD
    return np.ascontiguousarray(padded[row - tall * step : row + tall * step + 1 : step,
                                       column - wide * step : column + wide * step + 1 : step])  # fmt: skip


def _rings_about(places: NDArray[np.float32], grey: NDArray[np.float32], at: Array, most: float
                 ) -> tuple[NDArray[np.float32], float]:  # fmt: skip
    """(how bright each ring about a place is, mean by which pixels differ from their ring's)."""
    ring = np.minimum(np.hypot(*(places - at).T) * DEGREE, RINGS + 3).astype(int)
    known = [k for k in range(RINGS) if (ring == k).sum() >= 8]
    if len(known) < RINGS // 2:
        return np.zeros(RINGS, np.float32), np.inf
    bright = np.interp(np.arange(RINGS), known, [np.median(grey[ring == k]) for k in known])
    inside = ring < RINGS
    return bright.astype(np.float32), float(np.minimum(np.abs(grey[inside] - bright[ring[inside]]), most).mean())


@njit(cache=True, fastmath=True)
def _misfit(window, grey, says, most):  # type: ignore[no-untyped-def]
    tall, wide = grey.shape
    out = np.empty((window.shape[0] - tall + 1, window.shape[1] - wide + 1), np.float32)
    for i in range(out.shape[0]):
        for j in range(out.shape[1]):
            total = np.float32(0)
            for y in range(tall):
                for x in range(wide):
                    total += says[y, x] * min(abs(window[i + y, j + x] - grey[y, x]), most)
            out[i, j] = total
    return out


def _peak(score: NDArray[np.float32], row: int, column: int) -> tuple[float, float]:
    """Part of a pixel by which the peak lies aside, by a parabola each way."""
    out = []
    for before, after, length, at in ((score[row, column - 1] if column else 0, score[row, min(column + 1, score.shape[1] - 1)], score.shape[1], column),
                                      (score[row - 1, column] if row else 0, score[min(row + 1, score.shape[0] - 1), column], score.shape[0], row)):  # fmt: skip
        bend = before - 2 * score[row, column] + after
        out.append(
            float(np.clip(0.5 * (before - after) / bend, -0.5, 0.5)) if 0 < at < length - 1 and bend < -1e-9 else 0.0
        )
    return out[0], out[1]
