"""A body made as large as its performer is, limb by limb: suits and stages often record on a skeleton of another size."""

from collections.abc import Iterable
from dataclasses import replace

import numpy as np

from dynaface.core.body.skeleton import Motion, Skeleton
from dynaface.core.contact.feet import feet_of, has_feet
from dynaface.core.contact.hands import hands_of
from dynaface.core.measures.measures import Measures, ankle_height, measure, shoulder_width, trunk_joints, trunk_parts

MOST = 2.0  # by which a limb is made longer, or shorter, at most


def fitted(motion: Motion, wished: Measures) -> Motion:
    """The motion on a skeleton with these measures: joints turn as they do, legs, arms, trunk and feet are as long as measured, and the body
    goes as much farther as its legs are longer. What is not measured, or what the skeleton has no joints for, stays.
    """
    if wished.none:
        return motion
    skeleton = motion.skeleton
    found = measure(skeleton)
    longer = np.ones(len(skeleton.names))
    root, lifted = motion.root, 0.0
    if has_feet(skeleton):
        feet = feet_of(skeleton)
        tread = _ratio(wished.foot, found.foot)
        longer[_below(skeleton, (f.ankle for f in feet))] = tread
        ankle = ankle_height(skeleton)
        if found.hips is not None:
            leg = found.hips - ankle
            legs = _ratio(wished.hips and wished.hips - ankle * tread, leg)
            longer[[j for f in feet for j in (f.shin, f.ankle)]] = legs
            lifted = leg * (legs - 1) + ankle * (tread - 1)
            root = root * (1 + lifted / found.hips)
    hands = hands_of(skeleton)
    if wished.span is not None and found.span is not None:
        width = shoulder_width(skeleton, hands)
        longer[_below(skeleton, (h.bones.top for h in hands.values()))] = _ratio(
            wished.span - width, found.span - width
        )
    trunk = trunk_parts(skeleton)
    if wished.height is not None and found.hips is not None and trunk is not None:
        below, above = found.hips + lifted + trunk[0], trunk[1]
        longer[trunk_joints(skeleton)] = _ratio(wished.height - below, above)
    offsets = skeleton.offsets * longer[:, None]
    offsets[0] = skeleton.offsets[0] + [0.0, lifted, 0.0]
    return replace(motion, skeleton=replace(skeleton, offsets=offsets), root=root)


def _ratio(wished: float | None, found: float | None) -> float:
    if wished is None or found is None or found <= 0:
        return 1.0
    return float(np.clip(wished / found, 1 / MOST, MOST))


def _below(skeleton: Skeleton, tops: Iterable[int]) -> list[int]:
    """The joints that hang on some, without these."""
    wanted = set(tops)
    return [j for j in range(len(skeleton.names)) if j not in wanted and any(skeleton.carries(t, j) for t in wanted)]
