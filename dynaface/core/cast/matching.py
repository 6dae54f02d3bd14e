"""All of a character's targets and joints with what drives them: by hand, by name, by what they do."""

from collections.abc import Mapping
from dataclasses import dataclass

from dynaface.core.cast.character import Character
from dynaface.core.cast.joints import JointDrive
from dynaface.core.cast.match import How, Match, strongest
from dynaface.core.cast.sheet import CastSheet, Combination
from dynaface.core.shapes.standard import SHAPES


@dataclass(frozen=True)
class Matched:
    """target; parts: (shape, gain) that are added up; meshes that carry it; how it was found; confidence 0..1."""

    target: str
    parts: tuple[tuple[str, float], ...]
    meshes: tuple[str, ...]
    how: How
    confidence: float = 1.0

    @property
    def shape(self) -> str:
        """The shape with the greatest gain."""
        return strongest(self.parts)


@dataclass(frozen=True)
class MatchReport:
    """matched targets; combinations by target; drives of joints; missing: shapes that move nothing; unused: targets
    that nothing drives; eye_joints.
    """

    matched: tuple[Matched, ...]
    combinations: Mapping[str, Combination]
    drives: tuple[JointDrive, ...]
    missing: tuple[str, ...]
    unused: tuple[str, ...]
    eye_joints: tuple[str, ...]


def automatic_match(character: Character, target: str) -> Match | None:
    """What drives a target unless somebody says otherwise: its name, else what it does to the mesh."""
    return character.named(target) or (character.study.matches.get(target) if character.study else None)


def match_targets(character: Character, sheet: CastSheet) -> MatchReport:
    """Which shapes drive which targets and joints."""
    matched: list[Matched] = []
    unused: list[str] = []
    for target in character.targets:
        if target in sheet.combinations:
            continue
        if target in sheet.matches:
            found: Match | None = Match(sheet.matches[target], "hand")
        else:
            found = automatic_match(character, target)
        if found is not None and found.parts:
            meshes = character.carried_by(target)
            matched.append(Matched(target, found.parts, meshes, found.how, found.confidence))
        else:
            unused.append(target)
    combinations = {t: c for t, c in sheet.combinations.items() if t in character.targets}
    drives = _drives(character, sheet)
    driven = {shape for m in matched for shape, _ in m.parts} | {d.channel for d in drives}
    eyes = tuple(j for j in (character.eye_joint("left"), character.eye_joint("right")) if j)
    if eyes:
        driven |= {s for s in SHAPES if s.startswith("eyeLook")} if sheet.eyes == "joints" else set()
    missing = tuple(s for s in SHAPES if s not in driven)
    return MatchReport(tuple(matched), combinations, drives, missing, tuple(unused), eyes)


def _drives(character: Character, sheet: CastSheet) -> tuple[JointDrive, ...]:
    """The automatic drives with the sheet's in their place; only of joints that are there."""
    joints = set(character.skeleton.names) if character.skeleton else set()
    found: dict[str, JointDrive | None] = dict(character.study.drives) if character.study else {}
    found |= dict(sheet.joints)
    return tuple(d for d in found.values() if d is not None and d.joint in joints)
