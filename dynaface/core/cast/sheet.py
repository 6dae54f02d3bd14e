"""The cast sheet: how channels drive one character.

Order: match -> region strength -> shape strength and offset -> limits (once, last).
"""

from collections.abc import Mapping
from dataclasses import dataclass, field
from typing import Any, Literal

import numpy as np
from numpy.typing import NDArray

from dynaface.core import checks
from dynaface.core.body.rotations import about, multiply
from dynaface.core.cast.character import Character
from dynaface.core.curves.channels import Channels, Floats
from dynaface.core.curves.gaps import bridged
from dynaface.core.errors import InputError
from dynaface.core.shapes.gaze import angles_from_looks
from dynaface.core.shapes.regions import REGION, REGIONS
from dynaface.core.shapes.spelling import match_name
from dynaface.core.shapes.standard import SHAPES

EyeDrive = Literal["joints", "shapes"]


@dataclass(frozen=True)
class CastSheet:
    """matches: target -> shape, "" for a target left alone; only what differs from the automatic match stands here.

    region_strength: region -> factor; shape_strength: shape -> factor; shape_offset: shape -> added weight;
    low, high: limits of every target; eyes: what turns the eyeballs.
    """

    matches: Mapping[str, str] = field(default_factory=dict)
    region_strength: Mapping[str, float] = field(default_factory=dict)
    shape_strength: Mapping[str, float] = field(default_factory=dict)
    shape_offset: Mapping[str, float] = field(default_factory=dict)
    low: float = 0.0
    high: float = 1.0
    eyes: EyeDrive = "joints"


def parse_sheet(data: Mapping[str, Any]) -> CastSheet:
    """A sheet from plain data (docs/formats.md); raises InputError."""
    known = {"matches", "regionStrength", "shapeStrength", "shapeOffset", "low", "high", "eyes"}
    for key in data:
        checks.one_of("cast sheet field", key, known)
    matches = dict(data.get("matches", {}))
    for target, shape in matches.items():
        if shape:
            checks.one_of(f"match of {target!r}", shape, SHAPES)
    low, high = checks.within("low", data.get("low", 0.0), -2, 2), checks.within("high", data.get("high", 1.0), -2, 4)
    if low >= high:
        raise InputError(f"the lower limit {low:g} is not below the upper {high:g}")
    return CastSheet(
        matches,
        _factors(data, "regionStrength", REGIONS, 0, 3),
        _factors(data, "shapeStrength", SHAPES, 0, 4),
        _factors(data, "shapeOffset", SHAPES, -1, 1),
        low,
        high,
        checks.one_of("eyes", data.get("eyes", "joints"), ("joints", "shapes")),
    )


def _factors(data: Mapping[str, Any], name: str, allowed: tuple[str, ...], low: float, high: float) -> dict[str, float]:
    given = data.get(name, {})
    if not isinstance(given, Mapping):
        raise InputError(f"{name} must be a table of numbers by name")
    return {checks.one_of(name, k, allowed): checks.within(f"{name}.{k}", v, low, high) for k, v in given.items()}


@dataclass(frozen=True)
class MatchReport:
    """matched: (target, shape, meshes, "name" or "hand"); missing: shapes without target; unused: targets without."""

    matched: tuple[tuple[str, str, tuple[str, ...], str], ...]
    missing: tuple[str, ...]
    unused: tuple[str, ...]
    eye_joints: tuple[str, ...]


def match_targets(character: Character, sheet: CastSheet) -> MatchReport:
    """Which shape drives which target: by hand where the sheet says so, else by name."""
    matched: list[tuple[str, str, tuple[str, ...], str]] = []
    unused: list[str] = []
    for target in character.targets:
        by_hand = target in sheet.matches
        shape = sheet.matches[target] if by_hand else match_name(target)
        if shape in SHAPES:
            matched.append((target, shape, character.carried_by(target), "hand" if by_hand else "name"))
        else:
            unused.append(target)
    driven = {m[1] for m in matched}
    eyes = tuple(j for j in (character.eye_joint("left"), character.eye_joint("right")) if j)
    return MatchReport(tuple(matched), tuple(s for s in SHAPES if s not in driven), tuple(unused), eyes)


@dataclass(frozen=True)
class CastMotion:
    """weights: (frames, targets) float32 for `targets`; still: (mesh, target) pairs that stay 0 because a joint turns
    that mesh instead; eyes: joint -> (frames, 4) turn against the head.
    """

    targets: tuple[str, ...]
    weights: Floats
    still: tuple[tuple[str, str], ...]
    eyes: Mapping[str, NDArray[np.float64]]


def strengths(sheet: CastSheet, names: tuple[str, ...]) -> Floats:
    """(channels,) factor of each channel by its region and its own strength."""
    return np.array(
        [sheet.region_strength.get(REGION[n], 1.0) * sheet.shape_strength.get(n, 1.0) for n in names], np.float32
    )


def apply_sheet(channels: Channels, character: Character, sheet: CastSheet) -> CastMotion:
    """Channels onto the character's targets and eye joints; gaps are bridged straight, so that nothing pops."""
    report = match_targets(character, sheet)
    driven = bridged(channels.values) * strengths(sheet, channels.names)
    index = {n: i for i, n in enumerate(channels.names)}
    targets = tuple(m[0] for m in report.matched)
    weights = np.zeros((channels.frames, len(targets)), np.float32)
    for column, (_, shape, _, _) in enumerate(report.matched):
        if shape in index:
            weights[:, column] = driven[:, index[shape]]
        weights[:, column] += sheet.shape_offset.get(shape, 0.0)
    np.clip(weights, sheet.low, sheet.high, out=weights)
    if sheet.eyes == "shapes" or not report.eye_joints:
        return CastMotion(targets, weights, (), {})
    still = tuple(
        (m.mesh, t)
        for m in character.meshes
        if m.joints and set(m.joints) <= set(report.eye_joints)
        for t, shape, _, _ in report.matched
        if t in m.targets and shape.startswith("eyeLook")
    )
    return CastMotion(targets, weights, still, _eye_turns(channels, driven, index, character))


def _eye_turns(
    channels: Channels, driven: Floats, index: Mapping[str, int], character: Character
) -> dict[str, NDArray[np.float64]]:
    out = {}
    zero = np.zeros(channels.frames, np.float32)
    for side in ("left", "right"):
        joint = character.eye_joint(side)
        if joint is None:
            continue
        end = side.capitalize()
        if f"gazeTurn{end}" in index and f"gazeNod{end}" in index:
            turn, nod = driven[:, index[f"gazeTurn{end}"]], driven[:, index[f"gazeNod{end}"]]
        else:
            out_, in_, up, down = (
                driven[:, index[f"eyeLook{way}{end}"]] if f"eyeLook{way}{end}" in index else zero
                for way in ("Out", "In", "Up", "Down")
            )
            turn, nod = angles_from_looks(out_, in_, up, down, side)
        out[joint] = multiply(about("y", turn.astype(np.float64)), about("x", -nod.astype(np.float64)))
    return out
