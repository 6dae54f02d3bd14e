"""What the cast sheet and the join of a take match."""

from typing import Any

from dynaface.core.cast.matching import match_targets
from dynaface.core.perform.join import stands_in_take
from dynaface.core.sync.timecode_offset import timecode_offset
from dynaface.services.take.prepare_take import prepare_take
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
    """Where timecode puts the body of a take, and when its feet stand, by side, in frames of the take."""
    prepared = prepare_take(work, take)
    character, body = prepared.snapshot.character, prepared.snapshot.body
    ours = character.skeleton if character else None
    if ours is None or body is None:
        return {"offset": None, "stands": {}}
    settings = prepared.snapshot.join
    return {
        "offset": timecode_offset(prepared.raw.timecode, body.timecode),
        "stands": {c.side: c.foot for c in stands_in_take(prepared.raw, body, settings, prepared.contacts)},
    }
