"""The neutral face in a clip: where it is, and what speaks against frames that are taken for it."""

from collections.abc import Sequence

import numpy as np

from dynaface.core.shapes.standard import SHAPES
from dynaface.core.track.landmarks import Landmarks

OPEN, SHUT = 0.15, 0.45  # learned scores of the jaw and the lids
GAP = 0.03  # of the face's height between the lips
WANDERS = 0.03  # of the face's height, one standard deviation
UNEVEN = 1.5  # times as far from the nose to one side of the face as to the other


def stillest(found: list[Landmarks | None], rate: float) -> tuple[int, int]:
    """(first, last) of the stillest second with the mouth closed and the eyes open."""
    length = max(3, min(round(rate), len(found)))
    points = np.array([m.points if m else np.full((478, 2), np.nan) for m in found], np.float64)
    scores = np.array([m.scores if m else np.ones(len(SHAPES)) for m in found], np.float64)
    size = np.nanmedian(np.linalg.norm(points[:, 10] - points[:, 152], axis=1))
    moved = np.nan_to_num(np.linalg.norm(np.diff(points, axis=0), axis=2).mean(axis=1) / max(size, 1), nan=1.0)
    busy = scores[:, [SHAPES.index(s) for s in ("jawOpen", "eyeBlinkLeft", "eyeBlinkRight", "mouthSmileLeft")]].sum(
        axis=1
    )
    cost = np.concatenate([moved, moved[-1:]]) * 30 + busy if len(moved) else busy
    sums = np.convolve(cost, np.ones(length), "valid")
    first = int(np.argmin(sums))
    return first, first + length - 1


def wanders(found: Sequence[Landmarks]) -> bool:
    """Whether the bridge of the nose moves about in the picture, as before a camera that stands and not on a head mount."""
    if not found:
        return False
    points = np.array([m.points for m in found], np.float64)
    size = float(np.median(np.linalg.norm(points[:, 10] - points[:, 152], axis=1)))
    return float(np.sqrt(points[:, 168].var(axis=0).sum())) > WANDERS * max(size, 1.0)


def farthest(found: Sequence[Landmarks | None], shape: str) -> int:
    """The frame in which an expression that begins and ends at rest is at its extreme; -1 where no face is seen.

    By how far the landmarks went from the clip's beginning, turn and size of the head apart, and by the shape's own
    learned score, each in shares of its largest.
    """
    known = [n for n, m in enumerate(found) if m]
    if not known:
        return -1
    points = np.array([found[n].points for n in known], np.float64)  # type: ignore[union-attr]
    scores = np.array([found[n].scores[SHAPES.index(shape)] for n in known], np.float64)  # type: ignore[union-attr]
    points -= points[:, :468].mean(axis=1, keepdims=True)
    points /= np.sqrt((points**2).sum(axis=2).mean(axis=1))[:, None, None]
    rest = points[: max(1, len(known) // 8)].mean(axis=0)
    # A turn in the plane of the picture, as complex numbers.
    own, calm = points @ np.array([1, 1j]), rest @ np.array([1, 1j])
    spin = (own * calm.conj()).sum(axis=1)
    moved = np.sqrt((np.abs(own * (spin.conj() / np.abs(spin))[:, None] - calm) ** 2).mean(axis=1))
    gained = scores - scores[: max(1, len(known) // 8)].mean()
    return known[int(np.argmax(moved / max(moved.max(), 1e-9) + np.clip(gained, 0, None) / max(gained.max(), 0.2)))]


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
