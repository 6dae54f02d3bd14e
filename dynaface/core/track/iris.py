"""Where the eyes look: the iris followed on the eyeball itself.

A picture is carried onto the sphere of each eyeball, in degrees of turn and nod; there a look is a shift, and the iris
of the neutral face is found again by correlation.
"""

from dataclasses import dataclass

import cv2
import numpy as np
from numpy.typing import NDArray

from dynaface.core.track.camera import Camera, Pose
from dynaface.core.track.head import Array

DEGREE = 0.6  # degrees a pixel
TURN, NOD = 66.0, 40.0  # reach to either side
IRIS = 36.0  # degrees of the disc that is followed: the iris with its rim and some white


@dataclass(frozen=True)
class Look:
    """turn, nod: degrees from the neutral look (turn to the performer's left, nod up); alike: -1..1."""

    turn: float
    nod: float
    alike: float


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
        self._ball = _ball(centre, radius)
        self._template: NDArray[np.float32] | None = None
        self._corner = (0, 0)

    def carried(self, picture: NDArray[np.uint8], camera: Camera, pose: Pose) -> NDArray[np.float32]:
        """The picture (height, width) grey on the ball."""
        maps = camera.project(pose.see(self._ball)).astype(np.float32)
        return cv2.remap(picture, maps[..., 0], maps[..., 1], cv2.INTER_LINEAR).astype(np.float32)

    def learn(self, neutral: NDArray[np.float32]) -> tuple[float, float]:
        """Takes the iris from the neutral picture on the ball; returns (turn, nod) degrees at which it was."""
        rows, columns = neutral.shape
        reach = round(IRIS / DEGREE)
        # The darkest disc near the middle is the iris.
        dark = cv2.blur(neutral, (round(44 / DEGREE), round(14 / DEGREE)), borderType=cv2.BORDER_REPLICATE)
        y, x = np.mgrid[0:rows, 0:columns]
        far = ((x - columns / 2) ** 2 + (y - rows / 2) ** 2) * DEGREE**2
        row, column = (int(v) for v in np.unravel_index(np.argmin(dark + 0.02 * far), dark.shape))
        # Lids cover the top and bottom of the iris: what is followed is a band across its middle.
        half = round(11 / DEGREE)
        row, column = min(max(row, half), rows - half - 1), min(max(column, reach), columns - reach - 1)
        self._template = neutral[row - half : row + half + 1, column - reach : column + reach + 1].copy()
        self._corner = (column - reach, row - half)
        return (column - (columns - 1) / 2) * DEGREE, ((rows - 1) / 2 - row) * DEGREE

    def find(self, ball: NDArray[np.float32]) -> Look:
        """The look in a picture on the ball (rows, columns), grey."""
        assert self._template is not None, "learn the neutral iris first"
        score = cv2.matchTemplate(ball, self._template, cv2.TM_CCOEFF_NORMED)
        score = np.nan_to_num(score, nan=-1.0, posinf=-1.0, neginf=-1.0)
        row, column = (int(v) for v in np.unravel_index(np.argmax(score), score.shape))
        dx, dy = _peak(score, row, column)
        x0, y0 = self._corner
        return Look((column + dx - x0) * DEGREE, (y0 - row - dy) * DEGREE, float(score[row, column]))


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
