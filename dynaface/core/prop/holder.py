"""A role as far as its hands hold props: where its palms are in the shot, and arms that bend so that they reach."""

from dataclasses import dataclass, field
from functools import cached_property

import numpy as np

from dynaface.core.body.rotations import Array, about, continuous, multiply, rotate, slerp
from dynaface.core.body.skeleton import Skeleton
from dynaface.core.body.two_bones import elbow_axis, lay
from dynaface.core.contact.hands import Hand, hands_of
from dynaface.core.prop.grasp import Grasp, grasp_of


@dataclass
class Holder:
    """local: (frames, joints, 4) and root: (frames, 3) of the role in its own space, which is turned to its left by `turn` degrees and stands
    at `at` metres in the shot. arms: joint -> (frames, 4) local rotations of arms and fingers that were bent.
    """

    skeleton: Skeleton
    local: Array
    root: Array
    at: tuple[float, float, float] = (0.0, 0.0, 0.0)
    turn: float = 0.0
    arms: dict[int, Array] = field(default_factory=dict)

    @cached_property
    def hands(self) -> dict[str, Hand]:
        """Its hands by side."""
        return hands_of(self.skeleton)

    def pose(self) -> tuple[Array, Array]:
        """Rotations (frames, joints, 4) and positions (frames, joints, 3) in the shot, with arms as they are bent so far."""
        rotations, positions = self._own
        return multiply(self._facing, rotations), np.asarray(self.at) + rotate(self._facing, positions)

    @cached_property
    def grasps(self) -> dict[str, Grasp]:
        """How its hands close, by side."""
        return {side: grasp_of(self.skeleton, hand) for side, hand in self.hands.items()}

    def palm(self, side: str) -> tuple[Array, Array]:
        """(places (frames, 3), turns (frames, 4)) in the shot of what a hand would hold, and of the hand."""
        rotations, positions = self._own
        wrist, place = self.hands[side].bones.end, self.grasps[side].place
        turns = rotations[:, wrist]
        own = positions[:, wrist] + rotate(turns, np.broadcast_to(place, positions[:, wrist].shape))
        return np.asarray(self.at) + rotate(self._facing, own), multiply(self._facing, turns)

    def close(self, side: str, share: Array) -> None:
        """Closes the fingers of a hand about what it holds. share: (frames,) 0 as they are .. 1 a fist."""
        for joint, fist in self.grasps[side].fist.items():
            own = self.arms.get(joint, self.local[:, joint])
            self.arms[joint] = continuous(slerp(own, np.broadcast_to(fist, own.shape), share))
        self._moved()

    def reach(self, side: str, shift: Array) -> None:
        """Bends an arm so that its hand goes by a shift (frames, 3) of metres in the shot, as far as it reaches; the wrist stays turned as
        it is.
        """
        rows = np.flatnonzero(np.abs(shift).sum(axis=1) > 0)
        if not len(rows):
            return
        bones = self.hands[side].bones
        rotations, positions = (values[rows] for values in self._own)
        wish = positions[:, bones.end] + rotate(about("y", -self.turn), shift[rows])
        hinge = elbow_axis(self.skeleton, bones)
        turned = lay(self.skeleton, bones, rotations, positions, wish, rotations[:, bones.end], hinge)
        for joint, turn in turned.items():
            own = self.arms.get(joint, self.local[:, joint]).copy()
            own[rows] = turn
            self.arms[joint] = continuous(own)
        self._moved()

    def _moved(self) -> None:
        self.__dict__.pop("_own", None)

    @property
    def _facing(self) -> Array:
        return about("y", self.turn)

    @cached_property
    def _own(self) -> tuple[Array, Array]:
        """Rotations and positions in its own space, with arms and fingers as they are bent by now."""
        local = self.local.copy()
        for joint, turn in self.arms.items():
            local[:, joint] = turn
        return self.skeleton.pose(local, self.root)
