"""How far an eye is shut, from the picture on its ball: the lid's edge between the open eye and the shut one.

A blink lasts a few frames and lids move by their whole height within one: landmarks lag behind and fall short, and a dense
flow loses them. Here each picture is compared with those that the open and the shut eye make with the edge at every height.
"""

from dataclasses import dataclass

import cv2
import numpy as np
from numpy.typing import NDArray

from dynaface.core.track.iris import DEGREE

SIDE = 34.0  # degrees to either side of the ball's middle within which the edge is followed
BEYOND = 6  # rows above and below the eye's slit
STEPS = np.linspace(-0.2, 1.1, 53)  # heights of the edge: 0 as in the neutral eye, 1 as in the shut one
EDGE = 1.5  # rows over which it is soft
LEAST = 6  # rows that a slit is high at least

Patch = NDArray[np.float32]


@dataclass(frozen=True)
class Lid:
    """shut: 0 (as neutral) to 1; alike: -1..1 how well an edge there explains the picture."""

    shut: float
    alike: float


class LidFinder:
    """Follows one eye's upper lid; open_, shut: (rows, columns) grey pictures on its ball. `usable` is False where both
    look alike, as with a sample in which the eye was not shut.
    """

    def __init__(self, open_: Patch, shut: Patch) -> None:
        bright, dark = _soft(open_), _soft(shut)
        rows, columns = bright.shape
        differ = cv2.GaussianBlur(np.abs(bright - dark), (0, 0), 2)
        x = np.arange(columns)
        inner = np.abs(x - columns // 2) < round(SIDE / DEGREE)
        over = differ > 0.35 * np.quantile(differ[:, inner], 0.98)
        high = over.sum(axis=0) > LEAST
        self.usable = bool((high & inner).sum() >= 3 * LEAST and differ[:, inner].max() > 8)
        if not self.usable:
            return
        # The slit's rims are smooth: a parabola each.
        first, last = over.argmax(axis=0), rows - 1 - over[::-1].argmax(axis=0)
        use = high & inner
        top, bottom = (np.polyval(np.polyfit(x[use], rim[use], 2), x) for rim in (first, last))
        self._columns = np.flatnonzero(inner & (bottom - top > LEAST))
        self.usable = len(self._columns) >= 3 * LEAST
        if not self.usable:
            return
        low = max(int(top[self._columns].min()) - BEYOND, 0)
        self._rows = slice(low, min(int(bottom[self._columns].max()) + BEYOND, rows))
        edge = top + STEPS[:, None] * (bottom - top)
        above = 1 / (1 + np.exp((np.arange(rows)[None, :, None] - edge[:, None]) / EDGE))
        made = (above * dark + (1 - above) * bright)[:, self._rows][..., self._columns]
        made -= made.mean(axis=(1, 2), keepdims=True)
        self._made = (made / np.sqrt((made**2).sum(axis=(1, 2), keepdims=True))).reshape(len(STEPS), -1)

    def find(self, ball: Patch) -> Lid:
        """How far the eye is shut in a picture on the ball."""
        seen = _soft(ball)[self._rows][:, self._columns].ravel()
        seen = seen - seen.mean()
        score = self._made @ (seen / max(float(np.sqrt((seen**2).sum())), 1e-9))
        best = int(np.argmax(score))
        return Lid(float(np.clip(STEPS[best], 0, 1)), float(score[best]))


def _soft(patch: Patch) -> NDArray[np.float64]:
    return np.asarray(cv2.GaussianBlur(patch.astype(np.float64), (0, 0), 1.0))
