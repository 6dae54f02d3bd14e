"""A body motion carried onto another skeleton: each joint's turn away from rest is copied in world space.

Where the rests differ (T or A pose), the target's limbs are first laid along the source's by the shortest rotation.
"""

from collections.abc import Mapping
from dataclasses import dataclass, field

import numpy as np

from dynaface.core.body.kernels import one_side, parents_of, to_parents, turned_by
from dynaface.core.body.rotations import IDENTITY, Array, between, inverse, multiply, slerp
from dynaface.core.body.skeleton import Skeleton
from dynaface.core.match.anatomy import anatomy_of
from dynaface.core.match.propose import Share, propose_match

# Only limbs are laid along the source's: trunk, neck, head and feet keep the character's own stance.
LAID = ("upperarm", "lowerarm", "hand", "finger1", "finger2", "finger3", "finger4", "finger5", "upperleg", "lowerleg")
LEGLESS = 0.1  # of a skeleton's size that its hips stand high at least for their height to be compared


@dataclass(frozen=True)
class Matching:
    """What a motion is carried over by. matches: target joint -> source joint; shares: target joints of chains that lie between two joints of
    the source; laid: those of the target that are laid along the source's limbs at rest; turns: target joint -> (4,) world rotation by
    which its rest is corrected by hand.
    """

    matches: Mapping[str, str]
    shares: Mapping[str, Share] = field(default_factory=dict)
    laid: frozenset[str] = frozenset()
    turns: Mapping[str, Array] = field(default_factory=dict)


def matching_of(
    source: Skeleton, target: Skeleton, by_hand: Mapping[str, str], turns: Mapping[str, Array], chains: str = "share"
) -> Matching:
    """What is proposed, with what was said by hand: target joint -> source joint, "" to leave it alone. Raises InputError for a joint that
    is not there.
    """
    proposal = propose_match(source, target, chains)
    matches, shares = dict(proposal.matches), dict(proposal.shares)
    for ours, theirs in by_hand.items():
        target.index(ours)
        if theirs == matches.get(ours, ""):
            continue  # what is proposed is only confirmed, and goes on sharing
        shares.pop(ours, None)
        if theirs:
            source.index(theirs)
            matches[ours] = theirs
        else:
            matches.pop(ours, None)
    slots = anatomy_of(target).slots
    laid = frozenset(target.names[j] for j, s in slots.items() if s.part in LAID)
    for ours in turns:
        target.index(ours)
    return Matching(matches, shares, laid, turns)


def alignment(source: Skeleton, target: Skeleton, matching: Matching) -> Array:
    """(joints, 4) world rotations that lay the target's rest along the source's; joints without a match follow their parents, and corrections
    turn what hangs on a joint as well.
    """
    _, source_at = source.global_rest()
    _, target_at = target.global_rest()
    matches = matching.matches
    out = np.tile(IDENTITY, (len(target.names), 1))
    for joint, name in enumerate(target.names):
        parent, laid = target.parents[joint], name in matching.laid
        if parent >= 0 and (laid or name not in matches):
            out[joint] = out[parent]
        child = _matched_child(target, joint, matches) if laid and name in matches else None
        if child is not None:
            here, there = source.index(matches[name]), source.index(matches[target.names[child]])
            if not source.carries(here, there):
                continue  # no bone of the source goes from one to the other
            along_source, along_target = source_at[there] - source_at[here], target_at[child] - target_at[joint]
            if np.linalg.norm(along_source) > 1e-9 and np.linalg.norm(along_target) > 1e-9:
                out[joint] = between(along_target, along_source)
    return _corrected(target, out, matching.turns) if matching.turns else out


def _corrected(target: Skeleton, aligned: Array, turns: Mapping[str, Array]) -> Array:
    whole = np.tile(IDENTITY, (len(target.names), 1))
    for joint, (name, parent) in enumerate(zip(target.names, target.parents, strict=True)):
        if parent >= 0:
            whole[joint] = whole[parent]
        if name in turns:
            whole[joint] = multiply(whole[joint], turns[name])
    return multiply(whole, aligned)


def _matched_child(target: Skeleton, joint: int, matches: Mapping[str, str]) -> int | None:
    """The nearest matched joint below; with several (a hand), the middle one."""
    below: list[int] = []
    inside = {joint}
    for other in range(joint + 1, len(target.names)):
        parent = target.parents[other]
        if parent in inside:
            if target.names[other] in matches:
                below.append(other)
            else:
                inside.add(other)
    return below[len(below) // 2] if below else None


def retarget(
    source: Skeleton, local: Array, root: Array, target: Skeleton, matching: Matching, aligned: Array | None = None
) -> tuple[Array, Array]:
    """World turns away from the aligned rest for every target joint, and the root's travel.

    local (frames, joints, 4), root (frames, 3) of the source -> turns (frames, target joints, 4) such that the global
    rotation of a target joint is turn * rest, and root travel (frames, 3) scaled by the height of the hips.
    A target joint without a match turns with its parent; one that shares turns by its part of the way. aligned: the `alignment` of
    both, where it is known.
    """
    source_rest, source_at = source.global_rest()
    rotations, positions = source.pose(local, root)
    aligned = alignment(source, target, matching) if aligned is None else aligned
    matches = matching.matches

    away = np.empty_like(rotations)
    turned_by(rotations, inverse(source_rest), away)

    def turned(name: str) -> Array:
        return away[:, source.index(name)]

    turns = np.empty((len(local), len(target.names), 4))
    first = np.tile(IDENTITY, (len(target.names), 1))
    for joint, name in enumerate(target.names):
        parent = target.parents[joint]
        share = matching.shares.get(name)
        if share is not None and share.low and share.part < 1:
            turns[:, joint] = slerp(turned(share.low), turned(share.high), share.part)
            first[joint] = aligned[joint]
        elif name in matches:
            turns[:, joint] = turned(matches[name])
            first[joint] = aligned[joint]
        elif parent >= 0:
            turns[:, joint] = turns[:, parent]
            first[joint] = first[parent]
        else:
            turns[:, joint] = IDENTITY
    turned_by(turns, first, turns)
    hips = travelling_joint(source, matches)
    if not hips:
        return turns, np.zeros((len(local), 3))
    there = source.index(matches[hips])
    scale = body_scale(source, target, hips, matches[hips])
    return turns, (positions[:, there] - source_at[there]) * scale


def travelling_joint(source: Skeleton, matches: Mapping[str, str]) -> str:
    """The target joint that goes where the body goes: that of the source's hips, or of its root; "" for none."""
    hips = anatomy_of(source).joint("hips")
    return next(
        (
            t
            for t, s in matches.items()
            if source.index(s) == hips or (hips < 0 and source.parents[source.index(s)] < 0)
        ),
        "",
    )


def body_scale(source: Skeleton, target: Skeleton, ours: str, theirs: str) -> float:
    """Size of the target by that of the source, by the height of the hips; 1 where one has no legs."""
    heights = []
    for skeleton, name in ((target, ours), (source, theirs)):
        at = skeleton.global_rest()[1]
        height = float(at[skeleton.index(name), 1] - at[:, 1].min())
        heights.append(height if height > LEGLESS * float(np.ptp(at, axis=0).max()) else 0.0)
    return heights[0] / heights[1] if min(heights) > 0 else 1.0


def to_local(target: Skeleton, turns: Array) -> Array:
    """World turns (frames, joints, 4) away from rest to local rotations, those of neighbouring frames on one side."""
    rest, _ = target.global_rest()
    rotations, local = np.empty(turns.shape), np.empty(turns.shape)
    turned_by(np.ascontiguousarray(turns, np.float64), rest, rotations)
    to_parents(parents_of(target.parents), rotations, local)
    one_side(local)
    return local
