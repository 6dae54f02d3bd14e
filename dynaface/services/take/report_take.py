"""What the cast sheet and the join of a take match."""

from typing import Any

from dynaface.core.body.skeleton import Motion, Skeleton
from dynaface.core.cast.matching import match_targets
from dynaface.core.contact.by_hand import standing
from dynaface.core.head.neck import head_chain
from dynaface.core.perform.join import begins_in_body
from dynaface.core.sync.timecode_offset import timecode_offset
from dynaface.services.take.prepare_take import PreparedTake, prepare_take
from dynaface.services.work import Work


def cast_report(work: Work, take: str) -> dict[str, Any]:
    """What the cast sheet matches, what is missing, what is unused."""
    prepared = prepare_take(work, take)
    character = prepared.snapshot.character
    if character is None:
        return {"matched": [], "combinations": {}, "drives": [], "missing": [], "unused": [], "eyeJoints": [], "meshes": [],
                "joints": []}  # fmt: skip
    report = match_targets(character, prepared.sheet)
    return {
        "matched": [
            {
                "target": m.target,
                "shape": m.shape,
                "parts": dict(m.parts),
                "meshes": list(m.meshes),
                "how": m.how,
                "confidence": m.confidence,
            }
            for m in report.matched
        ],
        "combinations": {t: c.describe() for t, c in report.combinations.items()},
        "drives": [{"key": d.key, "joint": d.joint, "channel": d.channel, **d.describe()} for d in report.drives],
        "missing": list(report.missing),
        "unused": list(report.unused),
        "eyeJoints": list(report.eye_joints),
        "meshes": [m.mesh for m in character.meshes],
        "joints": list(character.skeleton.names) if character.skeleton else [],
    }


def join_report(work: Work, take: str) -> dict[str, Any]:
    """Where timecode puts the body of a take, at which second of it the take begins as it is joined, when its feet stand, in frames of
    the take that need not be whole, and which joints turn the head.
    """
    prepared = prepare_take(work, take)
    character, body = prepared.snapshot.character, prepared.snapshot.body
    ours = character.skeleton if character else None
    if ours is None or body is None:
        return {"offset": None, "begins": 0.0, "stands": [], "head": {"starts": [], "chain": [], "shares": []}}
    settings = prepared.snapshot.join
    return {
        "offset": timecode_offset(prepared.raw.timecode, body.timecode),
        "begins": begins_in_body(prepared.raw, body, settings),
        "stands": _stands(prepared, body),
        "head": _head(prepared, ours),
    }


def _head(prepared: PreparedTake, ours: Skeleton) -> dict[str, Any]:
    """Joints from which on the head can be turned, the highest first; those that turn it, and the share of the turn that each has."""
    found = prepared.graph.frame.result(prepared.cache) if prepared.graph.frame else None
    own, chain = head_chain(ours), prepared.head_joints
    weights = (found.shares if found else None) or (1.0,) * len(chain)
    whole = sum(weights) or 1.0
    lower, joint = [], own[0] if own else -1
    while joint >= 0 and ours.parents[joint] >= 0:
        lower.append(ours.names[joint])
        joint = ours.parents[joint]
    return {
        "starts": lower,
        "chain": chain,
        "shares": [round(w / whole, 4) for w in weights],
    }


def _stands(prepared: PreparedTake, body: Motion) -> list[dict[str, Any]]:
    rate, settings = float(prepared.raw.rate), prepared.snapshot.join
    begins = begins_in_body(prepared.raw, body, settings)
    spans = {foot.side: foot.foot for foot in prepared.contacts} | prepared.touches
    found = standing(spans, settings.contacts, float(body.rate), body.frames)

    def frame(of_body: int) -> float:
        return round((of_body / float(body.rate) - begins) * rate, 3)

    return [
        {"side": s.side, "first": frame(s.first), "last": frame(s.last), "key": s.key}
        for s in found
        if frame(s.last) >= 0 and frame(s.first) < prepared.raw.frames
    ]
