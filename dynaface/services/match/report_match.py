"""Both skeletons of a take with what is matched, as the match view draws them."""

from collections.abc import Mapping
from typing import Any

import numpy as np

from dynaface.core.body.rotations import Array
from dynaface.core.body.skeleton import Skeleton
from dynaface.core.identity import content_key
from dynaface.core.match.anatomy import anatomy_of
from dynaface.core.match.propose import propose_match
from dynaface.core.match.rest import differences, find_still
from dynaface.core.match.retarget import alignment, to_local
from dynaface.services.match.matched_part import MatchedPart, matched_part
from dynaface.services.take.prepare_take import prepare_take
from dynaface.services.work import Work


def match_report(work: Work, take: str) -> dict[str, Any]:
    """Joints of both skeletons with their places at rest, what is matched and how sure that is, what was said by hand, how rests differ, and
    poses that were held. Raises InputError without a body or a character with joints.
    """
    prepared = prepare_take(work, take)
    part = matched_part(prepared, "body")
    carried = part.carried
    still = prepared.cache.get_or_make(
        content_key("still", prepared.snapshot.documents.sources["body"].id), lambda: find_still(part.motion)
    )
    return {
        **_shown(part, carried.matches),
        "shared": sorted(carried.shares),
        "differences": differences(part.source, part.target, carried.matches),
        "held": [{"first": s.first, "last": s.last, "pose": s.pose, "arms": s.arms} for s in still],
    }


def hands_report(work: Work, take: str) -> dict[str, Any]:
    """The same of the take's hands, whose rest is that of their file. Raises InputError without hands."""
    prepared = prepare_take(work, take)
    part = matched_part(prepared, "hands")
    slots = anatomy_of(part.target).slots
    fingers = {part.target.names[j] for j, s in slots.items() if s.part == "hand" or s.part.startswith("finger")}
    matches = {t: s for t, s in part.carried.matches.items() if t in fingers}
    return {**_shown(part, matches), "shared": [], "differences": {}, "held": []}


def _shown(part: MatchedPart, matches: Mapping[str, str]) -> dict[str, Any]:
    """Both skeletons, the character's laid along the other, those matches that are shown with how sure they are, and what was said."""
    laid = to_local(part.target, alignment(part.source, part.target, part.carried)[None])
    kept = part.kept
    return {
        "body": _joints(part.source, part.source.rest[None]),
        "character": _joints(part.target, laid),
        "matches": dict(matches),
        "confidence": propose_match(part.source, part.target, part.settings.chain_way).sure_of(matches),
        "own": sorted(part.own.matches),
        "turns": {t: list(d) for t, d in part.settings.turns.items()},
        "chains": part.settings.chain_way,
        "said": len(part.own.matches)
        + len(part.own.turns)
        + (part.own.calibration is not None)
        + bool(part.own.chains),
        "kept": {"id": kept.id, "version": kept.version, "name": kept.body.name, "posed": bool(kept.body.rest)}
        if kept
        else None,
    }


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
