"""What a live camera shows, on the production's character: rough weights and head, for the live preview."""

from typing import Any

import numpy as np

from dynaface.core.body.rotations import head_angles
from dynaface.core.shapes.standard import HEAD_ANGLES, SHAPES
from dynaface.services.feed.live_character import live_character
from dynaface.services.work import Work


def drive_live(work: Work, production: str, scores: np.ndarray, turn: np.ndarray) -> dict[str, Any] | None:
    """The first character moved by scores (52,) of the shapes and the head's turn (4,) quaternion, matched by name, as the
    page poses one frame: source, targets, weights, still, joints, motion (flat). None where there is no character.
    """
    character = live_character(work, production)
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
