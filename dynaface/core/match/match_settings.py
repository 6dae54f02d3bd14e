"""How one skeleton is put on a character's, as settings: which joint is which, and what counts as rest."""

from collections.abc import Mapping
from dataclasses import dataclass, field

import numpy as np

from dynaface.core.body.skeleton import Motion, Skeleton
from dynaface.core.match.rest import as_rest, held_pose, turns_of
from dynaface.core.match.retarget import Matching, matching_of

Degrees = tuple[float, float, float]


@dataclass(frozen=True)
class MatchSettings:
    """matches: target joint -> source joint by hand ("" leaves the joint alone); turns: target joint -> degrees about left, up and ahead by
    which its rest is corrected; calibration: seconds of the motion at which it is held as the rest of its file should be, None for that
    rest; rest: joint of the source -> rotation in such a pose that was kept; chains: of `CHAIN_WAYS`, "" where nothing is said.
    """

    matches: Mapping[str, str] = field(default_factory=dict)
    turns: Mapping[str, Degrees] = field(default_factory=dict)
    calibration: float | None = None
    rest: Mapping[str, tuple[float, ...]] = field(default_factory=dict)
    chains: str = ""

    @property
    def chain_way(self) -> str:
        """The one of `CHAIN_WAYS` that counts."""
        return self.chains or "share"


def rest_of(motion: Motion, settings: MatchSettings) -> Skeleton:
    """The skeleton of a motion in the pose that counts as its rest."""
    if settings.calibration is not None:
        return as_rest(motion.skeleton, held_pose(motion, settings.calibration))
    return kept_rest_of(motion.skeleton, settings)


def kept_rest_of(skeleton: Skeleton, settings: MatchSettings) -> Skeleton:
    """A skeleton in the pose that a match keeps as its rest; as it is where none is kept."""
    kept = {joint: np.array(turn) for joint, turn in settings.rest.items()}
    return as_rest(skeleton, kept) if kept else skeleton


def matching_by(source: Skeleton, target: Skeleton, settings: MatchSettings) -> Matching:
    """By what a skeleton, as `rest_of` has it, is carried onto a character: proposed, then by hand."""
    return matching_of(source, target, settings.matches, turns_of(settings.turns), settings.chain_way)
