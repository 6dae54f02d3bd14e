"""Whether two sets of the same markers agree in size and handedness: a file may name the wrong unit or have left-handed axes."""

import numpy as np

from dynaface.core.errors import InputError
from dynaface.core.markers.rigid import fit_rigid
from dynaface.core.markers.take import Array

FEWEST = 6  # markers that are compared; fewer of them fit the mirror image as well
CLEARLY = 0.5  # share of the miss, below which the mirror image is clearly the better fit
NEAR = 0.003  # metres: markers that miss by less agree
SMALLEST, LARGEST = 0.7, 1.4  # sizes of one and the same face: helmets and caps shift a little
FRAMES = 25  # of a take that are compared


def is_mirrored(points: Array, target: Array) -> bool:
    """Whether points (n, 3) fit the target (n, 3) clearly better in a mirror; False where too few are there to say so."""
    if len(points) < FEWEST:
        return False
    plain, reflected = (_miss(p, target) for p in (points, points * [-1, 1, 1]))
    return plain > NEAR and reflected < CLEARLY * plain


def refuse_other_axes(points: Array, rest: Array) -> None:
    """Raises InputError where a take's points (frames, markers, 3) are another size than rest (markers, 3), the same face at rest as the
    layout's take has it, or its mirror image; NaN where a marker is not seen.
    """
    sizes, mirrored = [], []
    for frame in points[:: max(1, len(points) // FRAMES)]:
        both = np.isfinite(frame[:, 0]) & np.isfinite(rest[:, 0])
        if both.sum() >= FEWEST:
            size = fit_rigid(rest[both], frame[both], np.ones(both.sum()), scaled=True)[2]
            # A mirror image has its own size only when it is turned over first.
            turned = fit_rigid(rest[both] * [-1, 1, 1], frame[both], np.ones(both.sum()), scaled=True)[2]
            sizes.append(max(size, turned))
            mirrored.append(is_mirrored(frame[both] / sizes[-1], rest[both]))
    if not sizes:
        return
    size = float(np.median(sizes))
    if not SMALLEST <= size <= LARGEST:
        raise InputError(f"the markers of this take are {float(f'{size:.2g}'):g} times as far apart as those of the take that the layout was made from",
                         hint="One of the two files names the wrong unit; export it with the right one and bring it in again")  # fmt: skip
    if np.mean(mirrored) > 0.5:
        raise InputError("this take is the mirror image of the take that the layout was made from",
                         hint="One of the two files has left-handed axes; export it right-handed and bring it in again")  # fmt: skip


def _miss(points: Array, target: Array) -> float:
    """Metres (RMS) by which points miss their targets after the best rigid fit."""
    rotation, shift, _ = fit_rigid(points, target, np.ones(len(points)))
    return float(np.sqrt(((points @ rotation.T + shift - target) ** 2).sum(axis=1).mean()))
