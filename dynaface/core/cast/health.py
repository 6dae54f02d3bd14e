"""What an animator checks on a character before any take: which shapes are there, and which do not do what they say."""

from collections.abc import Iterator
from dataclasses import dataclass
from typing import Any

import numpy as np

from dynaface.core.cast.character import Character
from dynaface.core.cast.geometry import Array, Geometry
from dynaface.core.cast.matching import match_targets
from dynaface.core.cast.sheet import CastSheet
from dynaface.core.match.names import part_of
from dynaface.core.shapes.standard import SHAPES

STILL = 1e-4  # of the face's height: a target that moves less moves nothing
WHOLE, COHERENT = 0.9, 0.9  # share of vertices that move, and how alike: then it is the head that moves
ASIDE = 0.12  # of the face's half width, beyond the middle on the wrong side: then sides are swapped
HEIGHTS = ((0.12, 3.5, "metres", 1.0), (12, 350, "centimetres", 0.01), (120, 3500, "millimetres", 0.001))
JOINTS = ("jaw", "eye", "neck", "head")


@dataclass(frozen=True)
class Finding:
    """kind: "missing", "duplicate", "still", "whole head", "swapped sides", "animated", "unit" or "up"; target: what it is
    about, "" for the whole character; meshes: where; words: what an animator would say.
    """

    kind: str
    target: str
    meshes: tuple[str, ...]
    words: str


@dataclass(frozen=True)
class Health:
    """present: (shape, target, meshes); findings, in the order of their kinds; joints: part -> joints of that part;
    unit: what the lengths seem to be in; metres: of one such length; up: "y", "z" or "x".
    """

    present: tuple[tuple[str, str, tuple[str, ...]], ...]
    findings: tuple[Finding, ...]
    joints: dict[str, tuple[str, ...]]
    unit: str
    metres: float
    up: str

    def describe(self) -> dict[str, Any]:
        """As plain data."""
        return {
            "present": [{"shape": s, "target": t, "meshes": list(m)} for s, t, m in self.present],
            "findings": [{"kind": f.kind, "target": f.target, "meshes": list(f.meshes), "words": f.words} for f in self.findings],
            "joints": {k: list(v) for k, v in self.joints.items()},
            "unit": self.unit,
            "metres": self.metres,
            "up": self.up,
        }  # fmt: skip


def examine_character(character: Character, geometry: Geometry) -> Health:
    """Looks a character over; names decide what a target should be, its offsets what it is."""
    report = match_targets(character, CastSheet())
    present = tuple((m.shape, m.target, m.meshes) for m in report.matched)
    unit, metres = _unit(geometry)
    up = "xyz"[int(np.argmax(geometry.size))] if geometry.size.any() else "y"
    findings = [Finding("missing", s, (), f"There is no {s}.") for s in report.missing]
    findings += _duplicates(present, geometry)
    findings += _movements(present, character, geometry)
    findings += [Finding("animated", "", (mesh,), f"{mesh} already moves by the animation {name!r} in the file.")
                 for mesh, name in geometry.animated]  # fmt: skip
    if unit == "":
        findings.append(Finding("unit", "", (), f"It is {geometry.size.max():.3g} tall, which fits no unit of length."))
    elif metres != 1.0:
        findings.append(Finding("unit", "", (), f"Its lengths seem to be in {unit}; glTF means metres."))
    if up == "z":
        findings.append(Finding("up", "", (), "It seems to lie on its back: z is up, glTF means y."))
    return Health(present, tuple(findings), _joints(character), unit, metres, up)


def _unit(geometry: Geometry) -> tuple[str, float]:
    tall = float(geometry.size.max())
    return next(((name, metres) for low, high, name, metres in HEIGHTS if low <= tall < high), ("", 1.0))


def _duplicates(present: tuple[tuple[str, str, tuple[str, ...]], ...], geometry: Geometry) -> Iterator[Finding]:
    for mesh, target in geometry.twice:
        yield Finding("duplicate", target, (mesh,), f"{mesh} has the target {target} twice.")
    for shape in SHAPES:
        same = [(t, m) for s, t, m in present if s == shape]
        if len(same) > 1:
            names = ", ".join(t for t, _ in same)
            meshes = tuple(dict.fromkeys(m for _, held in same for m in held))
            yield Finding("duplicate", same[0][0], meshes, f"{names} are all spellings of {shape}.")


def _movements(
    present: tuple[tuple[str, str, tuple[str, ...]], ...], character: Character, geometry: Geometry
) -> Iterator[Finding]:
    shape_of = {target: shape for shape, target, _ in present}
    moving = [m for m in geometry.meshes if m.offsets]
    face = geometry.face  # the others, such as teeth, may well move as a whole
    if face is None:
        return
    tall = float(np.ptp(face.points[:, 1])) or 1.0
    middle = float((face.points[:, 0].max() + face.points[:, 0].min()) / 2)
    half = float(np.ptp(face.points[:, 0])) / 2 or 1.0
    for target in character.targets:
        carried = [m for m in moving if target in m.offsets]
        if not carried:
            continue
        most = max(float(np.linalg.norm(m.offsets[target], axis=1).max(initial=0.0)) for m in carried)
        if most < STILL * tall:
            yield Finding("still", target, tuple(m.mesh for m in carried), f"{target} moves nothing.")
            continue
        if target in face.offsets and _moves_all(face.offsets[target]):
            yield Finding("whole head", target, (face.mesh,), f"{target} moves the whole head.")
        side = {"Left": 1, "Right": -1}.get(
            next((e for e in ("Left", "Right") if shape_of.get(target, "").endswith(e)), "")
        )
        if side and not shape_of[target].startswith(("jaw", "mouthLeft", "mouthRight")):
            where = (
                _centre(carried[0].points, carried[0].offsets[target])
                if target not in face.offsets
                else _centre(face.points, face.offsets[target])
            )
            if side * (where - middle) < -ASIDE * half:
                yield Finding(
                    "swapped sides",
                    target,
                    tuple(m.mesh for m in carried),
                    f"{target} moves the other side of the face.",
                )


def _moves_all(offsets: Array) -> bool:
    lengths = np.linalg.norm(offsets, axis=1)
    moved = lengths > 0.2 * lengths.max()
    alike = np.linalg.norm(offsets.mean(axis=0)) / max(float(lengths.mean()), 1e-12)
    return bool(moved.mean() > WHOLE and alike > COHERENT)


def _centre(points: Array, offsets: Array) -> float:
    """Where along x the motion is, weighted by how far vertices go."""
    weight = np.linalg.norm(offsets, axis=1)
    return float((points[:, 0] * weight).sum() / max(float(weight.sum()), 1e-12))


def _joints(character: Character) -> dict[str, tuple[str, ...]]:
    names = character.skeleton.names if character.skeleton else ()
    out: dict[str, tuple[str, ...]] = {}
    for part in JOINTS:
        found = tuple(n for n in names if (known := part_of(n)) is not None and known[0] == part)
        if found:
            out[part] = found
    lids = tuple(n for n in names if "lid" in n.lower())
    return {**out, "lid": lids} if lids else out
