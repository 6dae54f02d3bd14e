"""Channels onto a character by its cast sheet.

Order: strengths (region, way, shape) -> response -> offset -> limits of the channel -> directions of jaw and lips ->
matches and combinations -> contacts -> [touch-up layers] -> limits of the target (once, last). Joint drives take the channel
before the directions act.
"""

from collections.abc import Mapping
from dataclasses import dataclass, field, replace

import numpy as np
from numpy.typing import NDArray

from dynaface.core.body.rotations import about, multiply
from dynaface.core.cast.character import Character
from dynaface.core.cast.contacts import Kept, keep_contacts
from dynaface.core.cast.directions import turn_directions
from dynaface.core.cast.joints import turns_and_shifts
from dynaface.core.cast.matching import MatchReport, match_targets
from dynaface.core.cast.sheet import CastSheet
from dynaface.core.cast.ways import WAY_OF
from dynaface.core.curves.channels import Channels, Floats
from dynaface.core.curves.gaps import bridged
from dynaface.core.shapes.gaze import angles_from_looks
from dynaface.core.shapes.regions import REGION

Turns = Mapping[str, NDArray[np.float64]]


@dataclass(frozen=True)
class CastMotion:
    """weights: (frames, targets) float32 for `targets`; still: (mesh, target) pairs that stay 0 because a joint turns
    that mesh instead; eyes: joint -> (frames, 4) turn against the head; turns, shifts: joint -> (frames, 4) and
    (frames, 3) metres against its rest, in its own frame; kept: the contacts that were kept; reaches: limb -> (frames, 3) metres by which
    it goes to the left, up and ahead as the hips face; whole: joints whose turns hold what the body does with them too.
    """

    targets: tuple[str, ...]
    weights: Floats
    still: tuple[tuple[str, str], ...]
    eyes: Turns
    turns: Turns = field(default_factory=dict)
    shifts: Turns = field(default_factory=dict)
    kept: tuple[Kept, ...] = ()
    reaches: Turns = field(default_factory=dict)
    whole: frozenset[str] = frozenset()

    def rows(self, own: slice) -> "CastMotion":
        """Some of its frames."""

        def each(table: Turns) -> dict[str, NDArray[np.float64]]:
            return {name: values[own] for name, values in table.items()}

        return replace(
            self, weights=self.weights[own], eyes=each(self.eyes), turns=each(self.turns),
            shifts=each(self.shifts), reaches=each(self.reaches),
        )  # fmt: skip


def strengths(sheet: CastSheet, names: tuple[str, ...]) -> Floats:
    """(channels,) factor of each channel by its region, its way and its own strength."""
    return np.array(
        [
            sheet.region_strength.get(REGION[n], 1.0)
            * sheet.way_strength.get(WAY_OF.get(n, ""), 1.0)
            * sheet.shape_strength.get(n, 1.0)
            for n in names
        ],
        np.float32,
    )


def drive_channels(channels: Channels, sheet: CastSheet) -> Floats:
    """(frames, channels) as the sheet has them before any target: strengths, response, offset, limits; gaps bridged."""
    driven: Floats = bridged(channels.values) * strengths(sheet, channels.names)
    index = {n: i for i, n in enumerate(channels.names)}
    for name, factor in sheet.below.items():
        if name in index:
            column = driven[:, index[name]]
            column[column < 0] *= np.float32(factor)
    for name, bend in sheet.bend.items():
        if name in index and bend:
            column = driven[:, index[name]]
            driven[:, index[name]] = np.sign(column) * np.abs(column) ** np.float32(2.0**-bend)
    for name, offset in sheet.shape_offset.items():
        if name in index:
            driven[:, index[name]] += np.float32(offset)
    for name, (low, high) in sheet.shape_limit.items():
        if name in index:
            np.clip(driven[:, index[name]], low, high, out=driven[:, index[name]])
    return driven


def apply_sheet(channels: Channels, character: Character, sheet: CastSheet) -> CastMotion:
    """Channels onto the character's targets and joints; gaps are bridged straight, so that nothing pops."""
    return limited(cast_channels(channels, character, sheet), sheet)


def limited(made: CastMotion, sheet: CastSheet) -> CastMotion:
    """The motion with each target within the sheet's limits."""
    return replace(made, weights=np.clip(made.weights, sheet.low, sheet.high))


def cast_channels(channels: Channels, character: Character, sheet: CastSheet) -> CastMotion:
    """As apply_sheet does it, before the limits of the targets."""
    report = match_targets(character, sheet)
    driven = drive_channels(channels, sheet)
    index = {n: i for i, n in enumerate(channels.names)}
    values = {n: driven[:, i] for n, i in index.items()}
    turns, shifts = turns_and_shifts(report.drives, values, channels.frames)
    turned = turn_directions(driven, index, sheet.directions, character.study)
    targets, weights = _onto_targets(turned, index, report, sheet)
    kept: tuple[Kept, ...] = ()
    if character.study is not None and character.study.edges:
        weights, kept = keep_contacts(channels, targets, weights, character.study.edges, sheet)
    if sheet.eyes == "shapes" or not report.eye_joints:
        return CastMotion(targets, weights, (), {}, turns, shifts, kept)
    still = tuple(
        (m.mesh, row.target)
        for m in character.meshes
        if m.joints and set(m.joints) <= set(report.eye_joints)
        for row in report.matched
        if row.target in m.targets and row.shape.startswith("eyeLook")
    )
    eyes = _eye_turns(channels.frames, values, character)
    return CastMotion(targets, weights, still, eyes, turns, shifts, kept)


def _onto_targets(driven: Floats, index: Mapping[str, int], report: MatchReport, sheet: CastSheet
                  ) -> tuple[tuple[str, ...], Floats]:  # fmt: skip
    targets = tuple(m.target for m in report.matched) + tuple(report.combinations)
    gains = np.zeros((driven.shape[1], len(targets)), np.float32)
    rest = np.zeros(len(targets), np.float32)
    for column, row in enumerate(report.matched):
        for shape, gain in row.parts:
            if shape in index:
                gains[index[shape], column] += gain
            else:  # a channel that the take lacks rests at its offset
                rest[column] += gain * sheet.shape_offset.get(shape, 0.0)
    weights = driven @ gains
    weights += rest
    for column, combination in enumerate(report.combinations.values(), len(report.matched)):
        if all(s in index for s in combination.of):
            of = driven[:, [index[s] for s in combination.of]]
            least = of.min(axis=1)
            weights[:, column] = combination.gain * (of.prod(axis=1) if combination.by == "product" else least)
            # Two shapes below rest make no corrective pose.
            weights[least < 0, column] = 0
    return targets, weights


def _eye_turns(frames: int, values: Mapping[str, Floats], character: Character) -> dict[str, NDArray[np.float64]]:
    out = {}
    zero = np.zeros(frames, np.float32)
    for side in ("left", "right"):
        joint = character.eye_joint(side)
        if joint is None:
            continue
        end = side.capitalize()
        if f"gazeTurn{end}" in values and f"gazeNod{end}" in values:
            turn, nod = values[f"gazeTurn{end}"], values[f"gazeNod{end}"]
        else:
            away, near, up, down = (values.get(f"eyeLook{way}{end}", zero) for way in ("Out", "In", "Up", "Down"))
            turn, nod = angles_from_looks(away, near, up, down, side)
        out[joint] = multiply(about("y", turn.astype(np.float64)), about("x", -nod.astype(np.float64)))
    return out
