"""How far an eye is shut, from the picture on its ball: the lid's edge between the open eye and the shut one.

A blink lasts a few frames and lids move by their whole height within one: landmarks lag behind and fall short, and a dense
flow loses them. Here each picture is compared with those that the open and the shut eye make with the edge at every height.
"""

from dataclasses import dataclass

import cv2
import numpy as np
from numpy.typing import NDArray

from dynaface.core.track.iris import DEGREE, Look

SIDE = 34.0  # degrees to either side of the ball's middle within which the edge is followed
BEYOND = 6  # rows above and below the eye's slit
STEPS = np.linspace(-0.2, 1.1, 53)  # heights of the edge: 0 as in the neutral eye, 1 as in the shut one
EDGE = 1.5  # rows over which it is soft
SEEN = 0.55  # an iris is followed from this likeness on
GONE, DOWN, AGREED = (
    0.4,
    0.6,
    0.25,
)  # an iris less likely than this is gone; a lid is down from here; what both together add
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
        self._above = above[:, self._rows][..., self._columns].reshape(len(STEPS), -1)
        # The ball turns behind the slit; what lies outside of it stays.
        y = np.arange(rows)[:, None]
        self._inside = cv2.GaussianBlur(((y > top) & (y < bottom)).astype(np.float64), (0, 0), 1.5)
        self._bright, self._dark = bright, dark[self._rows][:, self._columns].ravel()
        self._straight = self._models(bright)

    def _models(self, bright: NDArray[np.float64]) -> NDArray[np.float64]:
        """(steps, pixels) pictures with the edge at each height, each without its mean and of length 1."""
        made = bright[self._rows][:, self._columns].ravel() * (1 - self._above) + self._dark * self._above
        made -= made.mean(axis=1, keepdims=True)
        return np.asarray(made / np.sqrt((made**2).sum(axis=1, keepdims=True)))

    def find(self, ball: Patch, look: Look | None = None, bare: float = 0.0) -> Lid:
        """How far the eye is shut in a picture on the ball; look: where the iris was found, if it is known; bare: 0..1 how surely nothing
        is before the skin round the eye.
        """
        looks = [self._straight]
        if look is not None and look.alike > SEEN and abs(look.turn) + abs(look.nod) > DEGREE:
            aside = np.array([[1, 0, look.turn / DEGREE], [0, 1, -look.nod / DEGREE]], np.float32)
            size = self._bright.shape[::-1]
            moved = cv2.warpAffine(self._bright, aside, size, borderMode=cv2.BORDER_REPLICATE)
            looks.append(self._models(self._bright + self._inside * (moved - self._bright)))
        seen = _soft(ball)[self._rows][:, self._columns].ravel()
        seen = seen - seen.mean()
        seen /= max(float(np.sqrt((seen**2).sum())), 1e-9)
        # On a shut lid an iris is found where there is none: then the straight look explains more.
        score = max((models @ seen for models in looks), key=lambda s: float(s.max()))
        best = int(np.argmax(score))
        alike = float(score[best])
        # A shut lid has little on it to be alike in; that the iris is gone while nothing is before the eye says as much.
        if look is not None and look.alike < GONE and STEPS[best] > DOWN:
            alike = min(alike + AGREED * bare, 1.0)
        return Lid(float(np.clip(STEPS[best], 0, 1)), alike)


def _soft(patch: Patch) -> NDArray[np.float64]:
    return np.asarray(cv2.GaussianBlur(patch.astype(np.float64), (0, 0), 1.0))
