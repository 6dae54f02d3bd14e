"""Whether a face stands well before a camera, in words that say what to do."""

import numpy as np
from numpy.typing import NDArray

from dynaface.core.body.rotations import head_angles
from dynaface.core.track.camera import FOV, camera_of
from dynaface.core.track.landmarks import Landmarks
from dynaface.core.track.likeness import Places, fit_pose

SMALL, LARGE = 0.28, 0.78  # height of the face in the picture
DARK, BRIGHT = 55.0, 225.0  # mean grey of the face, of 255
TURNED = 22.0  # degrees
ASIDE = 0.22  # of the picture's width from its middle
BROW, CHIN = 10, 152


def framing(
    picture: NDArray[np.uint8], found: Landmarks | None, places: Places, points: NDArray[np.float64]
) -> list[str]:
    """What is wrong, worst first, [] when all is well.

    picture: (height, width) grey; points: (vertices, 3) of the general head.
    """
    height, width = picture.shape
    if found is None:
        dark = float(picture.mean()) < DARK / 2
        return ["No face is seen: it is too dark"] if dark else ["No face is seen: look into the camera"]
    marks = found.points.astype(np.float64)
    out = []
    share = float(np.linalg.norm(marks[BROW] - marks[CHIN])) / height
    if share < SMALL:
        out.append("The face is too small: come closer")
    elif share > LARGE:
        out.append("The face is too large: move back")
    low, high = marks[:468].min(axis=0), marks[:468].max(axis=0)
    inside = picture[max(int(low[1]), 0) : int(high[1]) + 1, max(int(low[0]), 0) : int(high[0]) + 1]
    if inside.size and float(inside.mean()) < DARK:
        out.append("The face is too dark: turn to a light")
    elif inside.size and float(inside.mean()) > BRIGHT:
        out.append("The face is too bright: less light")
    if abs(marks[:468, 0].mean() / width - 0.5) > ASIDE:
        out.append("The face is aside: move to the middle")
    camera = camera_of(width, height, FOV)
    turn, nod, _ = head_angles(fit_pose(camera, places.on(points), marks[:468], None, places.trust, 12).turn)
    if abs(float(turn)) > TURNED or abs(float(nod)) > TURNED:
        out.append("The head is turned far: look ahead")
    return out
