"""One frame of a performance as the page poses it: what a live picture or a feed shows now."""

from collections.abc import Mapping
from dataclasses import dataclass
from fractions import Fraction

import numpy as np

from dynaface.core.cast.apply import apply_sheet
from dynaface.core.cast.character import Character
from dynaface.core.cast.sheet import CastSheet
from dynaface.core.curves.channels import Channels, Floats
from dynaface.core.perform.join import RetargetedBody, still_body
from dynaface.core.perform.perform import head_part, perform
from dynaface.core.shapes.standard import HEAD_ANGLES, SHAPES

RATE = Fraction(60)  # of a frame that stands alone: nothing here depends on it


@dataclass(frozen=True)
class OneFrame:
    """weights: of `targets`; still: (mesh, target) pairs that stay 0; motion: (joints, 4) local rotations, of head and face alone without a
    body; shifts: joint -> (3,) metres from its rest, the joint that travels included.
    """

    targets: tuple[str, ...]
    weights: Floats
    still: tuple[tuple[str, str], ...]
    joints: tuple[str, ...]
    motion: Floats
    shifts: Mapping[str, Floats]


def one_frame(
    names: tuple[str, ...], row: Floats, character: Character, sheet: CastSheet, body: RetargetedBody | None = None
) -> OneFrame:
    """A row (channels,) on a character by its sheet, with a frame of a body; what is not known of shapes is at rest, and of the head where there is
    no body: a body keeps its own head then.
    """
    index = {n: i for i, n in enumerate(names)}
    always = SHAPES if body is not None else SHAPES + HEAD_ANGLES
    own = tuple(n for n in names if n in always or np.isfinite(row[index[n]]))
    values = np.nan_to_num(np.asarray(row, np.float32)[[index[n] for n in own]])
    channels = Channels(own, values[None], RATE)
    cast = apply_sheet(channels, character, sheet)
    carried, weight = (body, np.ones(1)) if body is not None else (still_body(character.skeleton, 1), None)
    made = perform(channels, character, cast, carried, head_part(sheet), weight)
    joints = made.joints if body is not None else made.head_joints
    shown = [made.joints.index(j) for j in joints]
    return OneFrame(
        made.cast.targets, made.cast.weights[0], made.cast.still, joints, made.local[0, shown],
        {joint: shift[0] for joint, shift in made.moved.items()},
    )  # fmt: skip
