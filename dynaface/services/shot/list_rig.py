"""What of a role's character touch-up layers can act on: its targets and joints, with the regions that they are of."""

from typing import Any

from dynaface.core.cast.character import Character
from dynaface.core.cast.matching import MatchReport, match_targets
from dynaface.core.cast.sheet import CastSheet
from dynaface.core.errors import InputError
from dynaface.core.head.neck import head_chain
from dynaface.core.match.limb_bones import limbs_of
from dynaface.core.shapes.regions import REGION
from dynaface.core.shapes.rig import LIMBS, reach_channels, slide_channels, target_channel, turn_channels
from dynaface.core.shapes.standard import mirrored
from dynaface.services.shot.evaluate_shot import PreparedRole, prepare_role
from dynaface.services.shot.snapshot import no_character
from dynaface.services.work import Work

OTHER = "extra"
"""The region of what no standard shape says where it is."""


def list_rig(work: Work, shot: str, role: str) -> dict[str, Any]:
    """{"character": its id, "low", "high": limits of targets, "rows": [{"name", "part": "target", "joint" or "limb", "region", "channels"}]}:
    targets first, then hands and feet, then joints, those of the face before the others. Raises InputError where the role has no character.
    """
    prepared = prepare_role(work, shot, role)
    character = prepared.snapshot.character
    if character is None:
        raise no_character()
    sheet = prepared.sheet
    report = match_targets(character, sheet)
    shapes = _shapes(report)
    rows = [
        {"name": t, "part": "target", "region": REGION.get(shapes.get(t, ""), OTHER), "channels": [target_channel(t)]}
        for t in character.targets
    ]
    regions = _joint_regions(character, report)
    limbs = limbs_of(character.skeleton) if character.skeleton else {}
    joints = sorted(character.skeleton.names if character.skeleton else (), key=lambda j: j not in regions)
    rows += [
        {"name": LIMBS[limb], "part": "limb", "region": OTHER, "channels": [*reach_channels(limb)]} for limb in limbs
    ]
    rows += [
        {
            "name": j,
            "part": "joint",
            "region": regions.get(j, OTHER),
            "channels": [*sorted(turn_channels(j)), *slide_channels(j)],
        }
        for j in joints
    ]
    return {"character": prepared.snapshot.played_by, "low": sheet.low, "high": sheet.high, "rows": rows}


def acting_character(prepared: PreparedRole, wanted: str) -> Character:
    """The character of a role, if it is the one that a touch-up layer is about; raises InputError."""
    found = prepared.snapshot.character
    if found is None or prepared.snapshot.played_by != wanted:
        raise InputError(
            "this layer touches up another character than the role has", hint="Choose that one again, or another layer"
        )
    return found


def rig_sides(character: Character, sheet: CastSheet) -> dict[str, str]:
    """Channel of a target -> that of the target which does the same on the other side."""
    shapes = _shapes(match_targets(character, sheet))
    by_shape = {shape: target for target, shape in reversed(shapes.items())}
    return {
        target_channel(t): target_channel(by_shape[other])
        for t, shape in shapes.items()
        if (other := mirrored(shape)) != shape and other in by_shape
    }


def _shapes(report: MatchReport) -> dict[str, str]:
    """Target -> the shape that drives it most."""
    return {m.target: m.shape for m in report.matched}


def _joint_regions(character: Character, report: MatchReport) -> dict[str, str]:
    """Joint -> region, of the joints that belong to the face."""
    if character.skeleton is None:
        return {}
    out = {d.joint: REGION[d.channel] for d in reversed(report.drives)}
    chain = head_chain(character.skeleton)
    return out | {character.skeleton.names[j]: "head" for j in chain} | dict.fromkeys(report.eye_joints, "gaze")
