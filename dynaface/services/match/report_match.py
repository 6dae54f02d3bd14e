"""Both skeletons of a take with what is matched, as the match view draws them."""

from collections.abc import Mapping
from typing import Any

import numpy as np

from dynaface.core.body.rotations import Array
from dynaface.core.body.skeleton import Skeleton
from dynaface.core.errors import InputError
from dynaface.core.identity import content_key
from dynaface.core.match.anatomy import anatomy_of
from dynaface.core.match.propose import propose_match
from dynaface.core.match.rest import differences, find_still
from dynaface.core.match.retarget import Matching, alignment, matching_of, to_local
from dynaface.core.perform.join import matching, rest_of
from dynaface.services.take.prepare_take import PreparedTake, prepare_take
from dynaface.services.work import Work

_NOTHING: dict[str, Any] = {"shared": [], "turns": {}, "differences": {}, "held": [], "kept": None}


def match_report(work: Work, take: str) -> dict[str, Any]:
    """Joints of both skeletons with their places at rest, what is matched and how sure that is, what was said by hand, how rests differ, and
    poses that were held. Raises InputError without a body or a character with joints.
    """
    prepared = prepare_take(work, take)
    source, target = skeletons_of(prepared)
    snapshot = prepared.snapshot
    body, settings, own = snapshot.body, snapshot.join, snapshot.documents.join.body.settings
    assert body is not None
    carried = matching(source, target, settings)
    still = prepared.cache.get_or_make(
        content_key("still", snapshot.documents.sources["body"].id), lambda: find_still(body)
    )
    kept = snapshot.match
    return {
        **_drawn(source, target, carried, carried.matches),
        "shared": sorted(carried.shares),
        "own": sorted(own.matches),
        "turns": {t: list(d) for t, d in settings.turns.items()},
        "differences": differences(source, target, carried.matches),
        "held": [{"first": s.first, "last": s.last, "pose": s.pose, "arms": s.arms} for s in still],
        "kept": {"id": kept.id, "version": kept.version, "name": kept.body.name, "posed": bool(kept.body.rest)}
        if kept
        else None,
    }


def hands_report(work: Work, take: str) -> dict[str, Any]:
    """The same of the take's hands, whose rest is that of their file. Raises InputError without hands."""
    prepared = prepare_take(work, take)
    hands = prepared.snapshot.hands
    if hands is None:
        raise InputError("this take has no hands of their own", hint="Bring in a take of hands first")
    source, target = hands.skeleton, _rig(prepared)
    own = prepared.snapshot.join.hands_matches
    carried = matching_of(source, target, own, {})
    slots = anatomy_of(target).slots
    fingers = {target.names[j] for j, s in slots.items() if s.part == "hand" or s.part.startswith("finger")}
    matches = {t: s for t, s in carried.matches.items() if t in fingers}
    return {**_NOTHING, **_drawn(source, target, carried, matches), "own": sorted(own)}


def _drawn(source: Skeleton, target: Skeleton, carried: Matching, matches: Mapping[str, str]) -> dict[str, Any]:
    """Both skeletons, the character's laid along the other, and those matches that are shown with how sure they are."""
    laid = to_local(target, alignment(source, target, carried)[None])
    return {
        "body": _joints(source, source.rest[None]),
        "character": _joints(target, laid),
        "matches": dict(matches),
        "confidence": propose_match(source, target).sure_of(matches),
    }


def skeletons_of(prepared: PreparedTake) -> tuple[Skeleton, Skeleton]:
    """(the body's in the pose that counts as its rest, the character's); raises InputError where one is missing."""
    snapshot = prepared.snapshot
    if snapshot.body is None:
        raise InputError("this take has no body", hint="Bring one in first")
    return rest_of(snapshot.body, snapshot.join), _rig(prepared)


def _rig(prepared: PreparedTake) -> Skeleton:
    character = prepared.snapshot.character
    if character is None or character.skeleton is None:
        raise InputError("the take's character has no joints", hint="Choose a character that is skinned to joints")
    return character.skeleton


def _joints(skeleton: Skeleton, local: Array) -> list[dict[str, Any]]:
    """Joints with their place in a pose (1, joints, 4), what they are, and which one is the same on the other side."""
    places = skeleton.pose(local, np.zeros((1, 3)))[1][0]
    slots = anatomy_of(skeleton).slots
    at = {slot: joint for joint, slot in slots.items()}
    other = {"L": "R", "R": "L"}
    out = []
    for joint, (name, parent) in enumerate(zip(skeleton.names, skeleton.parents, strict=True)):
        slot = slots.get(joint)
        twin = at.get(slot._replace(side=other[slot.side]), -1) if slot and slot.side else -1
        out.append(
            {"name": name, "parent": parent, "at": [round(float(v), 5) for v in places[joint]],
             "twin": skeleton.names[twin] if twin >= 0 else "", "part": slot.part if slot else "", "side": slot.side if slot else ""}
        )  # fmt: skip
    return out
