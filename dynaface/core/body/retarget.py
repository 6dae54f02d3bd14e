"""A body motion carried onto another skeleton: each joint's turn away from rest is copied in world space.

Where the rests differ (T or A pose), the target's limbs are first laid along the source's by the shortest rotation.
"""

from collections.abc import Mapping

import numpy as np

from dynaface.core.body.rotations import Array, between, inverse, multiply, normalised
from dynaface.core.body.skeleton import Skeleton

# Only limbs are laid along the source's: trunk, neck, head and feet keep the character's own stance.
_ALIGNED = ("arm", "leg", "elbow", "thigh", "shin", "calf", "knee", "hand", "wrist", "finger", "thumb", "index",
            "middle", "ring", "pinky", "little", "humerus", "femur")  # fmt: skip


def alignment(source: Skeleton, target: Skeleton, matches: Mapping[str, str]) -> Array:
    """(joints, 4) world rotations that lay the target's rest along the source's; children follow their parents."""
    _, source_at = source.global_rest()
    _, target_at = target.global_rest()
    out = np.tile([0.0, 0.0, 0.0, 1.0], (len(target.names), 1))
    for joint, name in enumerate(target.names):
        parent = target.parents[joint]
        if parent >= 0:
            out[joint] = out[parent]
        if name not in matches or not any(w in name.lower() for w in _ALIGNED):
            if name in matches:
                out[joint] = [0, 0, 0, 1]
            continue
        child = _matched_child(target, joint, matches)
        if child is None:
            continue
        here, there = source.names.index(matches[name]), source.names.index(matches[target.names[child]])
        along_source, along_target = source_at[there] - source_at[here], target_at[child] - target_at[joint]
        if np.linalg.norm(along_source) > 1e-6 and np.linalg.norm(along_target) > 1e-6:
            out[joint] = between(along_target, along_source)
    return out


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
    source: Skeleton, local: Array, root: Array, target: Skeleton, matches: Mapping[str, str]
) -> tuple[Array, Array]:
    """World turns away from the aligned rest for every target joint, and the root's travel.

    local (frames, joints, 4), root (frames, 3) of the source -> turns (frames, target joints, 4) such that the global
    rotation of a target joint is turn * rest, and root travel (frames, 3) scaled by the height of the hips.
    A target joint without a match turns with its parent.
    """
    source_rest, source_at = source.global_rest()
    rotations, positions = source.pose(local, root)
    aligned = alignment(source, target, matches)
    turns = np.empty((len(local), len(target.names), 4))
    for joint, name in enumerate(target.names):
        parent = target.parents[joint]
        if name in matches:
            there = source.names.index(matches[name])
            delta = multiply(rotations[:, there], inverse(source_rest[there]))
            turns[:, joint] = multiply(delta, aligned[joint])
        elif parent >= 0:
            turns[:, joint] = turns[:, parent]
        else:
            turns[:, joint] = [0, 0, 0, 1]
    _, target_at = target.global_rest()
    hips = next((t for t, s in matches.items() if source.parents[source.names.index(s)] < 0), None)
    if hips is None:
        return turns, np.zeros((len(local), 3))
    here, there = target.names.index(hips), source.names.index(matches[hips])
    ours, theirs = _height(target_at, here), _height(source_at, there)
    scale = ours / theirs if min(ours, theirs) > 0.05 else 1.0  # without legs there is nothing to compare
    return turns, (positions[:, there] - source_at[there]) * scale


def _height(positions: Array, hips: int) -> float:
    return float(positions[hips, 1] - positions[:, 1].min())


def to_local(target: Skeleton, turns: Array) -> Array:
    """World turns (frames, joints, 4) away from rest to local rotations."""
    rest, _ = target.global_rest()
    rotations = multiply(turns, rest)
    local = np.empty_like(rotations)
    for joint, parent in enumerate(target.parents):
        local[:, joint] = (
            rotations[:, joint] if parent < 0 else multiply(inverse(rotations[:, parent]), rotations[:, joint])
        )
    return normalised(local)
