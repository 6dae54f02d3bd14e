"""One picture of a live camera: where the face is, and whether it stands well."""

from functools import lru_cache
from threading import Lock
from typing import Any

import cv2
import numpy as np

from dynaface.core.errors import InputError, LimitError
from dynaface.core.solve.measured import row_of
from dynaface.core.track.camera import FOV, camera_of
from dynaface.core.track.framing import framing
from dynaface.core.track.head import Array
from dynaface.core.track.landmarks import LandmarkFinder
from dynaface.core.track.likeness import fit_pose
from dynaface.formats.head_file import general_head, landmark_model, landmark_places
from dynaface.services.footage.drive_live import drive_live
from dynaface.services.work import Work, allow

MAX_BYTES = 400_000  # bytes of one picture
MAX_PIXELS = 1280
_one_at_a_time = Lock()


@lru_cache(maxsize=1)
def _finder() -> LandmarkFinder:
    finder = LandmarkFinder(landmark_model(), still=True)
    finder.keep()
    return finder


@lru_cache(maxsize=1)
def _marks() -> Array:
    return landmark_places().on(general_head().points)


def find_live_face(work: Work, production: str, jpeg: bytes) -> dict[str, Any]:
    """{"points": 478 pairs of 0..1 of the picture or [], "words": what to change, "scores": rough weights of the shapes or
    [], "pose": turn and place of the head for the general head seen with a lens of FOV, or [], "driven": the production's
    character so moved, or None}.
    """
    with work.store.unit() as unit:
        allow(unit, production, work.person)
    if len(jpeg) > MAX_BYTES:
        raise LimitError(f"the picture is {len(jpeg) / 1000:.0f} kB", hint=f"At most {MAX_BYTES // 1000} kB")
    if jpeg[:3] != b"\xff\xd8\xff":
        raise InputError("the picture is no JPEG")
    picture = cv2.imdecode(
        np.frombuffer(jpeg, np.uint8), cv2.IMREAD_REDUCED_COLOR_2 if len(jpeg) > 200_000 else cv2.IMREAD_COLOR
    )
    if picture is None or max(picture.shape[:2]) > MAX_PIXELS:
        raise InputError(f"the picture cannot be read, or is larger than {MAX_PIXELS} pixels")
    with _one_at_a_time:
        found = _finder().find(cv2.cvtColor(picture, cv2.COLOR_BGR2RGB))
    words = framing(cv2.cvtColor(picture, cv2.COLOR_BGR2GRAY), found, landmark_places(), general_head().points)
    height, width = picture.shape[:2]
    if found is None:
        return {"points": [], "words": words, "scores": [], "pose": [], "driven": None}
    pose = fit_pose(
        camera_of(width, height, FOV), _marks(), found.points[:468].astype(np.float64), None, landmark_places().trust
    )
    return {
        "points": (found.points / [width, height]).round(4).tolist(),
        "words": words,
        "scores": found.scores.round(3).tolist(),
        "pose": row_of(pose).round(5).tolist(),
        "driven": drive_live(work, production, found.scores, pose.turn),
    }
