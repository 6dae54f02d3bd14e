"""A live camera: where the face is in each of its pictures, whether it stands well, and the character that it moves."""

from typing import Any

import cv2
import numpy as np

from dynaface.core.body.rotations import head_angles
from dynaface.core.errors import InputError, LimitError
from dynaface.core.shapes.standard import HEAD_ANGLES, SHAPES
from dynaface.core.solve.measured import row_of
from dynaface.core.track.camera import FOV, camera_of
from dynaface.core.track.framing import framing
from dynaface.core.track.landmarks import LandmarkFinder
from dynaface.core.track.likeness import fit_pose
from dynaface.formats.head_file import general_head, landmark_model, landmark_places
from dynaface.services.feed.live_character import LiveCharacter

MAX_BYTES = 400_000  # bytes of one picture
MAX_PIXELS = 1280
NOBODY: dict[str, Any] = {"points": [], "scores": [], "pose": [], "driven": None}


class LiveCamera:
    """One camera's eyes: pictures that follow each other, one at a time. It takes a while to make; character: what the first of the
    production is, as `live_character` gives it, or None.
    """

    def __init__(self) -> None:
        self.character: LiveCharacter | None = None
        self._finder = LandmarkFinder(landmark_model())
        self._finder.keep()
        self._marks = landmark_places().on(general_head().points)
        # What is loaded when it is first used is used once, so that the first picture does not wait for it.
        self._finder.find(np.zeros((64, 64, 3), np.uint8))

    def look(self, jpeg: bytes) -> dict[str, Any]:
        """{"points": 478 pairs of 0..1 of the picture or [], "words": what to change, "scores": rough weights of the shapes or
        [], "pose": turn and place of the head for the general head seen with a lens of FOV, or [], "driven": the character so moved
        as the page poses one frame, or None}. Raises InputError for what is no picture.
        """
        picture = picture_of(jpeg)
        found = self._finder.find(cv2.cvtColor(picture, cv2.COLOR_BGR2RGB))
        words = framing(cv2.cvtColor(picture, cv2.COLOR_BGR2GRAY), found, landmark_places(), general_head().points)
        if found is None:
            return {**NOBODY, "words": words}
        height, width = picture.shape[:2]
        pose = fit_pose(
            camera_of(width, height, FOV),
            self._marks,
            found.points[:468].astype(np.float64),
            None,
            landmark_places().trust,
        )
        return {
            "points": (found.points / [width, height]).round(4).tolist(),
            "words": words,
            "scores": found.scores.round(3).tolist(),
            "pose": row_of(pose).round(5).tolist(),
            "driven": driven(self.character, found.scores, pose.turn),
        }


def driven(character: LiveCharacter | None, scores: np.ndarray, turn: np.ndarray) -> dict[str, Any] | None:
    """A character moved by scores (52,) of the shapes and the head's turn (4,) quaternion, as the page poses one frame; None without
    a character.
    """
    if character is None:
        return None
    row = np.concatenate([scores, *head_angles(turn[None])]).astype(np.float32)
    frame = character.frame(SHAPES + HEAD_ANGLES, row)
    return {
        **character.described(frame),
        "weights": frame.weights.round(4).tolist(),
        "motion": frame.motion.ravel().round(5).tolist(),
        "shifts": [round(float(v), 6) for shift in frame.shifts.values() for v in shift],
    }


def picture_of(jpeg: bytes) -> np.ndarray:
    """(height, width, 3) BGR of a JPEG; raises InputError for any other bytes."""
    if len(jpeg) > MAX_BYTES:
        raise LimitError(f"the picture is {len(jpeg) / 1000:.0f} kB", hint=f"At most {MAX_BYTES // 1000} kB")
    if jpeg[:3] != b"\xff\xd8\xff":
        raise InputError("the picture is no JPEG")
    coarsely = cv2.IMREAD_REDUCED_COLOR_2 if len(jpeg) > 200_000 else cv2.IMREAD_COLOR
    picture = cv2.imdecode(np.frombuffer(jpeg, np.uint8), coarsely)
    if picture is None or max(picture.shape[:2]) > MAX_PIXELS:
        raise InputError(f"the picture cannot be read, or is larger than {MAX_PIXELS} pixels")
    return picture
