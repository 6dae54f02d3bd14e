"""The neutral face in a clip: where it is, and what speaks against frames that are taken for it."""

from collections.abc import Iterable, Sequence

import numpy as np
from numpy.typing import NDArray

from dynaface.core.shapes.standard import SHAPES
from dynaface.core.track.landmarks import Landmarks

OPEN, SHUT = 0.15, 0.45  # learned scores of the jaw and the lids
GAP = 0.03  # of the face's height between the lips
WANDERS = 0.03  # of the face's height, one standard deviation
BUSY = [SHAPES.index(s) for s in ("jawOpen", "eyeBlinkLeft", "eyeBlinkRight", "mouthSmileLeft")]
UNEVEN = 1.5  # times as far from the nose to one side of the face as to the other


def stillest(found: Iterable[Landmarks | None], rate: float) -> tuple[int, int]:
    """(first, last) of the stillest second with the mouth closed and the eyes open; each frame is looked at once, in order."""
    sizes, moved, busy = [], [], []
    before: Landmarks | None = None
    for number, mark in enumerate(found):
        sizes.append(_size(mark) if mark else np.nan)
        busy.append(float(mark.scores[BUSY].astype(np.float64).sum()) if mark else float(len(BUSY)))
        if number:
            moved.append(_apart(before, mark) if before and mark else np.nan)
        before = mark
    length = max(3, min(round(rate), len(busy)))
    size = np.nanmedian(sizes)
    steps = np.nan_to_num(np.array(moved) / max(size, 1), nan=1.0)
    cost = np.concatenate([steps, steps[-1:]]) * 30 + busy if moved else np.array(busy)
    sums = np.convolve(cost, np.ones(length), "valid")
    first = int(np.argmin(sums))
    return first, first + length - 1


def _size(mark: Landmarks) -> float:
    """Pixels of the face's height."""
    return float(np.linalg.norm(mark.points[10].astype(np.float64) - mark.points[152]))


def _apart(one: Landmarks, other: Landmarks) -> float:
    """Pixels that a point went on the whole."""
    return float(np.linalg.norm(other.points.astype(np.float64) - one.points, axis=1).mean())


def wanders(found: Iterable[Landmarks | None]) -> bool:
    """Whether the bridge of the nose moves about in the picture, as before a camera that stands and not on a head mount."""
    seen = [(_size(m), *m.points[168].tolist()) for m in found if m]
    if not seen:
        return False
    sizes, *bridge = np.array(seen, np.float64).T
    return float(np.sqrt(np.var(bridge, axis=1).sum())) > WANDERS * max(float(np.median(sizes)), 1.0)


def farthest(found: Sequence[Landmarks | None], shape: str) -> int:
    """The frame in which an expression that begins and ends at rest is at its extreme; -1 where no face is seen.

    By how far the landmarks went from the clip's beginning, turn and size of the head apart, and by the shape's own
    learned score, each in shares of its largest.
    """
    known = [n for n, m in enumerate(found) if m]
    if not known:
        return -1
    begins = known[: max(1, len(known) // 8)]
    calm = np.mean([_free_of_place(m) for m in map(found.__getitem__, begins) if m], axis=0)
    moved = np.empty(len(known))
    scores = np.empty(len(known))
    for at, mark in enumerate(m for m in found if m):
        own = _free_of_place(mark)
        spin = (own * calm.conj()).sum()
        moved[at] = np.sqrt((np.abs(own * (spin.conj() / np.abs(spin)) - calm) ** 2).mean())
        scores[at] = mark.scores[SHAPES.index(shape)]
    gained = scores - scores[: len(begins)].mean()
    return known[int(np.argmax(moved / max(moved.max(), 1e-9) + np.clip(gained, 0, None) / max(gained.max(), 0.2)))]


def _free_of_place(mark: Landmarks) -> NDArray[np.complex128]:
    """(478,) points as complex numbers, which a turn in the plane of the picture multiplies; place and size of the face apart."""
    points = mark.points.astype(np.float64)
    points = points - points[:468].mean(axis=0)
    points /= np.sqrt((points**2).sum(axis=1).mean())
    return np.asarray(points @ np.array([1, 1j]))


def neutral_doubts(found: Sequence[Landmarks | None]) -> list[str]:
    """What speaks against these frames as the neutral face, in words."""
    seen = [m for m in found if m]
    if len(seen) < len(found):
        return [f"no face is seen in {len(found) - len(seen)} of {len(found)} frames"]
    score = {s: float(np.median([m.scores[i] for m in seen])) for i, s in enumerate(SHAPES)}
    points = np.median([m.points for m in seen], axis=0)

    def away(a: int, b: int) -> float:
        return float(np.linalg.norm(points[a] - points[b]))

    out = []
    if score["jawOpen"] > OPEN or away(13, 14) > GAP * away(10, 152):
        out.append("the mouth seems to be open")
    if max(score["eyeBlinkLeft"], score["eyeBlinkRight"]) > SHUT:
        out.append("the eyes seem to be shut")
    if not 1 / UNEVEN < away(1, 454) / max(away(1, 234), 1e-6) < UNEVEN:
        out.append("the head seems to be turned")
    return out
