"""What a live camera shows, on the production's character: rough weights and head, for the live preview."""

from fractions import Fraction
from typing import Any

import numpy as np

from dynaface.core.body.rotations import head_angles
from dynaface.core.cast.sheet import CastSheet
from dynaface.core.curves.channels import Channels
from dynaface.core.documents.model.character import CharacterBody
from dynaface.core.perform.perform import perform_take
from dynaface.core.shapes.standard import HEAD_ANGLES, SHAPES
from dynaface.services.load_source import load_character
from dynaface.services.work import Work, allow, source_within


def drive_live(work: Work, production: str, scores: np.ndarray, turn: np.ndarray) -> dict[str, Any] | None:
    """The first character moved by scores (52,) of the shapes and the head's turn (4,) quaternion, matched by name, as the
    page poses one frame: source, targets, weights, still, joints, motion (flat). None where there is no character.
    """
    with work.store.unit() as unit:
        allow(unit, production, work.person)
        present = [c for c in unit.documents.of_kind(production, CharacterBody) if not c.body.archived]
        source = source_within(unit, production, present[0].body.source, "character") if present else None
    if source is None:
        return None
    row = np.concatenate([scores, *head_angles(turn[None])])[None].astype(np.float32)
    channels = Channels(SHAPES + HEAD_ANGLES, row, Fraction(30))
    made = perform_take(channels, load_character(work, source), CastSheet())
    index = [made.joints.index(j) for j in made.head_joints]
    return {
        "source": source.id,
        "targets": list(made.cast.targets),
        "weights": made.cast.weights[0].round(4).tolist(),
        "still": [list(pair) for pair in made.cast.still],
        "joints": list(made.head_joints),
        "motion": made.local[0, index].ravel().round(5).tolist(),
        "shifted": list(made.shifts),
        "shifts": [round(float(v), 6) for s in made.shifts.values() for v in s[0]],
    }
