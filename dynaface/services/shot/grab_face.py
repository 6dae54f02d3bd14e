"""Taking hold of a place of a role's face in the viewer, and dragging it."""

from collections.abc import Sequence
from dataclasses import replace
from typing import Any

import numpy as np

from dynaface.core.cast.apply import apply_sheet
from dynaface.core.cast.character import Character
from dynaface.core.cast.geometry import Geometry
from dynaface.core.cast.sheet import Contacts
from dynaface.core.curves.channels import Channels
from dynaface.core.errors import InputError
from dynaface.core.layers.gaze import angles_beneath
from dynaface.core.layers.grab import grab
from dynaface.core.layers.layer import widened
from dynaface.core.layers.weight import Amounts
from dynaface.core.shapes.gaze import looks_from_angles
from dynaface.core.shapes.regions import REGION
from dynaface.core.shapes.rig import target_channel
from dynaface.core.shapes.standard import SHAPES
from dynaface.services.load_source import load_geometry
from dynaface.services.shot.evaluate_shot import PreparedRole, prepare_role
from dynaface.services.shot.snapshot import no_character
from dynaface.services.work import Work

STEP = 0.1
FREE = 1000.0  # limits that no derivative meets
EYE, HEAD = 0.013, 0.11  # metres from the pivot of an eye to its pupil, of the head to the face
FARTHEST = 0.02  # metres from a place to the vertex that stands for it


def grab_face(
    work: Work, shot: str, role: str, frame: int, place: Sequence[float], plane: Sequence[Sequence[float]], wanted: Sequence[float],
    regions: Sequence[str] = (), mesh: str = "", rig: bool = False,
) -> dict[str, Any]:  # fmt: skip
    """{"part": "face", "eyes" or "head", "channels": channel -> by how much it changes so that a place goes where it is dragged}. mesh: the
    node that was taken hold of, which says what of the three it is; place: (3,) metres, at rest in the character's own
    space; plane: two directions (3,) of that space which the screen shows as right and up; wanted: (2,) metres along them; regions: whose channels may change, all where none is
    named; rig: whether the character's targets are asked in place of the standard channels, for a touch-up layer.

    Raises InputError where nothing is near, or nothing moves it.
    """
    prepared = prepare_role(work, shot, role)
    source, character = prepared.snapshot.rig, prepared.snapshot.character
    if source is None or character is None:
        raise no_character()
    part, move = _part(character, mesh), np.asarray(wanted, np.float64) @ np.asarray(plane, np.float64)
    if part != "face" and rig:
        raise InputError("a touch-up layer takes hold of the skin alone", hint="Turn joints by their sliders")
    if part != "face":
        return {"part": part, "channels": _turned(prepared, part, frame, move, regions)}
    asked = _of_targets(prepared, character, frame) if rig else _of_channels(prepared, character, frame)
    names, now, targets, change = asked
    offsets, most, spread = _offsets(load_geometry(work, source), targets, np.asarray(place, np.float64))
    change[[bool(regions) and REGION.get(n) not in regions for n in names]] = 0
    moves = change @ offsets @ np.asarray(plane, np.float64).T
    sheet = prepared.sheet
    found = grab(moves, np.abs(change) @ most, np.abs(change) @ spread, now, wanted, sheet.low, sheet.high)
    if not found.any() and np.linalg.norm(moves, axis=1).max(initial=0) < 1e-5:
        if not rig and (not regions or "head" in regions):  # a place that no shape moves goes with the head
            return {"part": "head", "channels": _turned(prepared, "head", frame, move, regions)}
        raise InputError(
            "nothing that may change moves this place", hint="Take hold of the face, or let the layer reach further"
        )
    return {"part": part, "channels": {n: round(float(v), 4) for n, v in zip(names, found, strict=True) if v}}


def _part(character: Character, mesh: str) -> str:
    """What of a character a mesh is: its eyes where joints of eyes alone move it, its face where it has targets, else its head."""
    found = next((m for m in character.meshes if m.mesh == mesh), None)
    if found is None:
        return "face"
    eyes = {character.eye_joint(side) for side in ("left", "right")}
    if found.joints and set(found.joints) <= eyes:
        return "eyes"
    return "face" if found.targets else "head"


def _turned(prepared: PreparedRole, part: str, frame: int, move: Amounts, regions: Sequence[str]) -> dict[str, float]:
    """Channel -> by how much it changes so that a point in front of the eyes' or the head's pivot goes by (3,) metres."""
    if regions and {"eyes": "gaze", "head": "head"}[part] not in regions:
        raise InputError(f"this layer does not reach the {part}", hint="Let the layer reach further")
    away = EYE if part == "eyes" else HEAD
    turn, nod = (float(np.degrees(np.arcsin(np.clip(m / away, -0.8, 0.8)))) for m in move[:2])
    if part == "head":
        return {"headTurn": round(turn, 2), "headNod": round(nod, 2)}
    now = _at_frame(prepared, frame)
    if "gazeTurnLeft" in now.names:
        return {
            f"gaze{way}{side}": round(by, 2) for side in ("Left", "Right") for way, by in (("Turn", turn), ("Nod", nod))
        }
    out: dict[str, float] = {}
    for side in ("left", "right"):
        angles = angles_beneath(now, side) + (turn, nod)
        for way, wanted in looks_from_angles(angles[:, 0], angles[:, 1], side).items():
            channel = f"eyeLook{way}{side.capitalize()}"
            out[channel] = round(float(wanted[0] - np.nan_to_num(now.column(channel))[0]), 4)
    return out


def _at_frame(prepared: PreparedRole, frame: int) -> Channels:
    """The role's channels at one frame."""
    whole = prepared.graph.tidied.result(prepared.cache)
    at = min(max(frame, 0), whole.frames - 1)
    return replace(whole, values=whole.values[at : at + 1])


Asked = tuple[tuple[str, ...], Amounts, tuple[str, ...], np.ndarray]


def _of_targets(prepared: PreparedRole, character: Character, frame: int) -> Asked:
    """As `_of_channels`, of the character's targets themselves."""
    names = tuple(target_channel(t) for t in character.targets)
    curves = prepared.rig_with({}, names)
    at = min(max(frame, 0), curves.frames - 1)
    return names, curves.values[at].astype(np.float64), character.targets, np.eye(len(names))


def _of_channels(prepared: PreparedRole, character: Character, frame: int) -> Asked:
    """(shapes; their values at the frame; targets; (shapes, targets) by how much a unit of each moves each target)."""
    wide = widened(_at_frame(prepared, frame), SHAPES)
    base = np.nan_to_num(wide.values)
    rows = np.repeat(base, len(SHAPES) + 1, axis=0)
    columns = [wide.names.index(s) for s in SHAPES]
    rows[np.arange(1, len(rows)), columns] += STEP
    # Contacts follow the lips over time, and limits hide what lies beyond them: neither is asked here.
    free = replace(prepared.sheet, contacts=Contacts(), low=-FREE, high=FREE)
    made = apply_sheet(Channels(wide.names, rows, wide.rate), character, free)
    change = (made.weights[1:] - made.weights[:1]).astype(np.float64) / STEP
    return SHAPES, base[0, columns].astype(np.float64), made.targets, change


def _offsets(geometry: Geometry, targets: tuple[str, ...], place: Amounts) -> tuple[np.ndarray, Amounts, Amounts]:
    """Metres by which each target moves the vertex nearest to a place (targets, 3), what it moves most (targets,), and all of the
    mesh, root mean square (targets,).
    """
    near = [
        (float(np.linalg.norm(m.points - place, axis=1).min()), m)
        for m in geometry.meshes
        if len(m.points) and m.offsets
    ]
    if not near or min(d for d, _ in near) > FARTHEST:
        raise InputError("there is nothing of the face at this place", hint="Take hold of the face")
    mesh = min(near, key=lambda pair: pair[0])[1]
    vertex = int(np.linalg.norm(mesh.points - place, axis=1).argmin())
    none = np.zeros(3)
    here = np.array([mesh.offsets[t][vertex] if t in mesh.offsets else none for t in targets])
    lengths = [np.linalg.norm(mesh.offsets[t], axis=1) if t in mesh.offsets else none for t in targets]
    return here, np.array([v.max() for v in lengths]), np.array([np.sqrt(np.mean(v**2)) for v in lengths])
