"""Carrying a cast sheet to another character, or to a newer version of the same, with a report of what changed."""

from collections.abc import Mapping
from dataclasses import dataclass, replace
from typing import Any

import numpy as np

from dynaface.core.cast.character import Character
from dynaface.core.cast.geometry import Array, Geometry, MeshGeometry
from dynaface.core.cast.joints import JointDrive
from dynaface.core.cast.matching import match_targets
from dynaface.core.cast.sheet import CastSheet, describe_sheet
from dynaface.core.match.names import part_of

SAME, MOVED = 0.985, 0.05  # likeness of a renamed target's motion; share by which one has changed
MAX_LISTED = 9
SAME_BUILD = 0.9  # share of targets that two characters of one build have in common


@dataclass(frozen=True)
class BuildChange:
    """added, gone: targets; renamed: old -> new; moved: targets that do something else now; joints_added, joints_gone."""

    added: tuple[str, ...] = ()
    gone: tuple[str, ...] = ()
    renamed: Mapping[str, str] | None = None
    moved: tuple[str, ...] = ()
    joints_added: tuple[str, ...] = ()
    joints_gone: tuple[str, ...] = ()

    def describe(self) -> dict[str, Any]:
        """As plain data."""
        return {
            "added": list(self.added),
            "gone": list(self.gone),
            "renamed": dict(self.renamed or {}),
            "moved": list(self.moved),
            "jointsAdded": list(self.joints_added),
            "jointsGone": list(self.joints_gone),
        }


def same_build(one: Character, other: Character) -> bool:
    """Whether two characters are rigged alike: by their targets, or by their joints where they have no targets."""
    first, second = set(one.targets), set(other.targets)
    if not first and not second:
        first = set(one.skeleton.names) if one.skeleton else set()
        second = set(other.skeleton.names) if other.skeleton else set()
    return bool(first) and len(first & second) >= SAME_BUILD * max(len(first), len(second))


def compare_builds(old: tuple[Character, Geometry], new: tuple[Character, Geometry]) -> BuildChange:
    """What is different in a newer version of a rig."""
    before, after = old[0].targets, new[0].targets
    added = [t for t in after if t not in before]
    gone = [t for t in before if t not in after]
    ours, theirs = _motions(old[1]), _motions(new[1])
    renamed: dict[str, str] = {}
    for target in gone:
        found = max(added, key=lambda t: _alike(ours.get(target), theirs.get(t)), default="")
        if found and _alike(ours.get(target), theirs.get(found)) > SAME and found not in renamed.values():
            renamed[target] = found
    moved = [t for t in after if t in before and _changed(ours.get(t), theirs.get(t))]
    joints = [set(c.skeleton.names) if c.skeleton else set() for c, _ in (old, new)]
    return BuildChange(
        tuple(t for t in added if t not in renamed.values()),
        tuple(t for t in gone if t not in renamed),
        renamed,
        tuple(moved),
        tuple(sorted(joints[1] - joints[0])),
        tuple(sorted(joints[0] - joints[1])),
    )


GRID = 14


def _motions(geometry: Geometry) -> dict[str, Array]:
    """target -> (GRID, GRID, 3) mean offset over the face seen from the front, so that meshes of other fineness compare."""
    out: dict[str, Array] = {}
    sized = [m for m in geometry.meshes if m.offsets and len(m.points)]
    for mesh in sized:
        for target, grid in _gridded(mesh).items():
            out[target] = out[target] + grid if target in out else grid
    return out


def _gridded(mesh: MeshGeometry) -> dict[str, Array]:
    low, size = mesh.points.min(axis=0), np.maximum(np.ptp(mesh.points, axis=0), 1e-9)
    cell = np.minimum(((mesh.points - low) / size * GRID).astype(int), GRID - 1)
    place = cell[:, 1] * GRID + cell[:, 0]
    count = np.maximum(np.bincount(place, minlength=GRID * GRID), 1)
    return {
        t: np.stack([np.bincount(place, o[:, k], GRID * GRID) / count for k in range(3)], axis=1) / size.max()
        for t, o in mesh.offsets.items()
    }


def _alike(one: Array | None, other: Array | None) -> float:
    if one is None or other is None:
        return 0.0
    length = float(np.linalg.norm(one) * np.linalg.norm(other))
    return float((one * other).sum()) / length if length > 1e-12 else 0.0


def _changed(one: Array | None, other: Array | None) -> bool:
    if one is None or other is None:
        return (one is None) != (other is None)
    return float(np.linalg.norm(one - other)) > MOVED * max(float(np.linalg.norm(one)), 1e-12)


def translate_sheet(sheet: CastSheet, old: Character, new: Character, renamed: Mapping[str, str] | None = None
                    ) -> tuple[CastSheet, list[str]]:  # fmt: skip
    """The sheet for another character, and in words what was carried, changed, or left behind.

    What speaks of channels is kept as it is; what speaks of targets goes by name (renamed: old -> new), else it is left to
    the new character's own match; drives of joints go to the joint of the same name, else of the same part.
    """
    names = dict(renamed or {})
    words: list[str] = []
    kept: dict[str, dict[str, Any]] = {"match": {}, "combination": {}}
    for what, table in (("match", sheet.matches), ("combination", sheet.combinations)):
        for target, value in table.items():
            name = names.get(target, target)
            if name in new.targets:
                kept[what][name] = value
            else:
                words.append(f"The {what} of {target} was left behind: {new.name} has no such target.")
    joints: dict[str, JointDrive | None] = {}
    for key, drive in sheet.joints.items():
        joint, _, channel = key.rpartition(":")
        name = joint_like(joint, new)
        if not name:
            words.append(f"What drives the joint {joint} was left behind: {new.name} has no such joint.")
        else:
            joints[f"{name}:{channel}"] = None if drive is None else replace(drive, joint=name)
    made = replace(sheet, matches=kept["match"], combinations=kept["combination"], joints=joints)
    before, after = match_targets(old, sheet), match_targets(new, made)
    lost = [s for s in after.missing if s not in before.missing]
    if lost:
        words.append(f"{new.name} lacks {_listed(lost)}.")
    gained = [s for s in before.missing if s not in after.missing]
    if gained:
        words.append(f"{new.name} also has {_listed(gained)}.")
    return made, words


def _listed(names: list[str]) -> str:
    rest = len(names) - MAX_LISTED
    return ", ".join(names[:MAX_LISTED]) + (f" and {rest} more" if rest > 0 else "")


def joint_like(name: str, character: Character) -> str:
    """The joint of a character that is called so, else the one of the same part; "" for none."""
    if character.skeleton is None:
        return ""
    if name in character.skeleton.names:
        return name
    part = part_of(name)
    return next((n for n in character.skeleton.names if part and part_of(n) == part), "")


def compare_sheets(one: CastSheet, other: CastSheet) -> list[tuple[str, str, Any, Any]]:
    """(field, name, what the first says, what the second says) wherever they differ; None where one says nothing."""
    first, second = describe_sheet(one), describe_sheet(other)
    out: list[tuple[str, str, Any, Any]] = []
    for field in dict.fromkeys([*first, *second]):
        a, b = first.get(field), second.get(field)
        if isinstance(a, dict) or isinstance(b, dict):
            a, b = a or {}, b or {}
            out += [(field, n, a.get(n), b.get(n)) for n in dict.fromkeys([*a, *b]) if a.get(n) != b.get(n)]
        elif a != b:
            out.append((field, "", a, b))
    return out
