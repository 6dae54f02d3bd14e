"""One frame of a performance as the page poses it: what a live picture or a feed shows now."""

from collections.abc import Mapping
from dataclasses import dataclass
from fractions import Fraction

import numpy as np

from dynaface.core.cast.character import Character
from dynaface.core.cast.sheet import CastSheet
from dynaface.core.curves.channels import Channels, Floats
from dynaface.core.perform.perform import perform_take
from dynaface.core.shapes.standard import HEAD_ANGLES, SHAPES

RATE = Fraction(60)  # of a frame that stands alone: nothing here depends on it
_ALWAYS = frozenset(SHAPES + HEAD_ANGLES)


@dataclass(frozen=True)
class OneFrame:
    """weights: of `targets`; still: (mesh, target) pairs that stay 0; motion: (joints, 4) local rotations; shifts: joint -> (3,) metres
    from its rest.
    """

    targets: tuple[str, ...]
    weights: Floats
    still: tuple[tuple[str, str], ...]
    joints: tuple[str, ...]
    motion: Floats
    shifts: Mapping[str, Floats]


def one_frame(names: tuple[str, ...], row: Floats, character: Character, sheet: CastSheet) -> OneFrame:
    """A row (channels,) on a character by its sheet; what is not known of shapes and head is at rest."""
    index = {n: i for i, n in enumerate(names)}
    own = tuple(n for n in names if n in _ALWAYS or np.isfinite(row[index[n]]))
    values = np.nan_to_num(np.asarray(row, np.float32)[[index[n] for n in own]])
    made = perform_take(Channels(own, values[None], RATE), character, sheet)
    head = [made.joints.index(j) for j in made.head_joints]
    return OneFrame(
        made.cast.targets, made.cast.weights[0], made.cast.still, made.head_joints, made.local[0, head],
        {joint: shift[0] for joint, shift in made.shifts.items()},
    )  # fmt: skip
