"""A body that comes frame by frame, on a character's skeleton: what depends on both skeletons alone is worked out once."""

from collections import Counter
from collections.abc import Mapping, Sequence

import numpy as np

from dynaface.core.body.rotations import IDENTITY, Array, between, rotate
from dynaface.core.body.skeleton import Skeleton
from dynaface.core.match.anatomy import CHAINS, Slot, anatomy_of
from dynaface.core.match.match_settings import MatchSettings, kept_rest_of, matching_by
from dynaface.core.match.names import part_of
from dynaface.core.match.retarget import alignment, retarget, to_local, travelling_joint
from dynaface.core.perform.join import RetargetedBody

LEAST = 3  # joints that must be known for a body to hang as a character does


class BodyFollower:
    """A source skeleton on a target, matched by settings; limbs are laid and travel is scaled as joins do it where nothing is set."""

    def __init__(self, source: Skeleton, target: Skeleton, settings: MatchSettings) -> None:
        self._source, self._rest = kept_rest_of(source, settings), source.rest
        self._target = target
        self._matching = matching_by(self._source, target, settings)
        self._aligned = alignment(self._source, target, self._matching)
        travels = travelling_joint(self._source, self._matching.matches)
        self._top = target.top(travels) if travels else ""
        self._places = {name: joint for joint, name in enumerate(source.names)}

    def frame(self, joints: Mapping[str, Sequence[float]], root: Sequence[float] | None) -> RetargetedBody:
        """One frame. joints: name -> local rotation (x, y, z, w), those that are not named at rest; root: (3,) where the topmost joint is,
        metres, None where it is not known.
        """
        local = self._rest.copy()
        for name, turn in joints.items():
            if name in self._places:
                local[self._places[name]] = turn
        way = np.zeros(3) if root is None else np.array(root, np.float64) - self._source.offsets[0]
        turns, travel = retarget(self._source, local[None], way[None], self._target, self._matching, self._aligned)
        moving = frozenset(self._matching.matches)
        return RetargetedBody(turns, to_local(self._target, turns), travel, moving, self._top)


def hung_as(target: Skeleton, names: Sequence[str]) -> Skeleton | None:
    """A skeleton for joints of which only names are known: they hang as a character's of the same parts of the body do, at rest without a
    rotation, the figure upright with level arms and looking along +z; joints of spine, neck and fingers are told apart by
    their order. None where the names say too little.
    """
    ours = {slot: joint for joint, slot in anatomy_of(target).slots.items()}
    found: dict[int, str] = {}
    seen: Counter[tuple[str, str]] = Counter()
    for name in names:
        part, side, _ = part_of(name) or ("", "", ())
        seen[part, side] += 1
        chained = part in CHAINS or part.startswith("finger")
        joint = ours.get(Slot(part, side, seen[part, side] if chained else 0))
        if joint is not None:
            found.setdefault(joint, name)
    if len(found) < LEAST:
        return None
    at = target.global_rest()[1]
    order, levelled = sorted(found), _levelled(target)
    parents, offsets = [], []
    for joint in order:
        above = target.parents[joint]
        while above >= 0 and above not in found:
            above = target.parents[above]
        parents.append(order.index(above) if above >= 0 else -1)
        offset = at[joint] - (at[above] if above >= 0 else 0.0)
        arm = next((a for a in levelled if a < joint and target.carries(a, joint)), None)
        offsets.append(rotate(levelled[arm], offset) if arm is not None else offset)
    rest: Array = np.tile(IDENTITY, (len(order), 1))
    return Skeleton(tuple(found[j] for j in order), tuple(parents), np.array(offsets), rest)


def _levelled(skeleton: Skeleton) -> dict[int, Array]:
    """Joint of an upper arm -> (4,) rotation that takes the arm at rest level to its side."""
    anatomy, at = anatomy_of(skeleton), skeleton.global_rest()[1]
    out = {}
    for side, aside in (("L", 1.0), ("R", -1.0)):
        top, end = anatomy.joint("upperarm", side), anatomy.joint("hand", side)
        if min(top, end) >= 0:
            out[top] = between(at[end] - at[top], np.array([aside, 0.0, 0.0]))
    return out
