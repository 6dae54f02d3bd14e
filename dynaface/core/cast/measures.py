"""How far a face goes, measured alike on a performer and on a character, and the strengths that follow from both.

Every way (core.cast.ways) is measured on the skin: the travel of what moves most, as a share of the face's own size, so that a large
face is compared with a small one by its proportions. What must meet (lids) is measured by whether it does.
"""

from collections.abc import Mapping
from dataclasses import dataclass

import numpy as np

from dynaface.core.cast.geometry import Array, Geometry
from dynaface.core.cast.study import Edge
from dynaface.core.cast.ways import WAYS

MIN_STRENGTH, MAX_STRENGTH = 0.4, 1.8  # strengths that are proposed
WORTH = 0.04  # a strength nearer to 1 is not proposed
TURN_WORTH, TURN_MOST = 2.0, 20.0  # degrees
# Which length of the face a way is compared with: lips go over a mouth, brows and lids over an eye, a jaw over a face.
_SPAN = {"lips": "mouth", "jaw": "face", "brows": "eyes", "cheeks": "face"}
Parts = Mapping[str, tuple[tuple[str, float], ...]]


def of_geometry(geometry: Geometry, parts: Parts, edges: Mapping[str, Edge]) -> dict[str, float]:
    """Measures of a character: parts: target -> (shape, gain)."""
    face = geometry.face
    if face is None:
        return {}
    shapes: dict[str, Array] = {}
    for target, made in parts.items():
        for shape, gain in made:
            if target in face.offsets:
                shapes[shape] = shapes.get(shape, np.zeros_like(face.points)) + gain * face.offsets[target]
    return of_shapes(face.points, shapes, edges)


def of_shapes(points: Array, shapes: Mapping[str, Array], edges: Mapping[str, Edge]) -> dict[str, float]:
    """Measures by name from rest points (vertices, 3) and offsets by shape: "face", "mouth", "eyes" in metres; each way's travel as
    a share of its length; "lid left" and "lid right": the weight at which lids meet; "direction: jaw aside" and so on (DIRECTIONS of the sheet):
    degrees of travel in the frontal or side view.
    """
    spans = _spans(points, shapes, edges)
    out = dict(spans)
    for way, members in WAYS.items():
        span = spans.get(_SPAN.get(way.split()[0], ""))
        found = [_travel(shapes[s]) for s in members if s in shapes]
        if span and found and max(found) > 0:
            out[way] = float(np.mean(found)) / span
    for side in ("left", "right"):
        edge = edges.get(f"lid {side}")
        change = edge.change.get(_target_of(f"eyeBlink{side.capitalize()}", edge)) if edge else None
        if edge is not None and change is not None and float(np.median(change)) < 0:
            out[f"lid {side}"] = float(np.median(edge.gap) / -np.median(change))
    if "jawOpen" in shapes:
        x, y, z = _mean(shapes["jawOpen"])
        out["direction: jaw aside"], out["direction: jaw forward"] = _degrees(x, -y), _degrees(z, -y)
    for side, sign in (("left", 1), ("right", -1)):
        smile = shapes.get(f"mouthSmile{side.capitalize()}")
        if smile is not None:
            x, y, _ = _mean(smile)
            out[f"direction: lips {side}"] = _degrees(y, sign * x)
    return out


def _target_of(shape: str, edge: Edge) -> str:
    """The target that closes the lid most: on a character with foreign names it is not called after the shape."""
    return (
        shape if shape in edge.change else min(edge.change, key=lambda t: float(np.median(edge.change[t])), default="")
    )


def _travel(offsets: Array) -> float:
    lengths = np.linalg.norm(offsets, axis=1)
    moving = lengths[lengths > 0.1 * lengths.max(initial=0.0)]
    return float(np.quantile(moving, 0.9)) if len(moving) else 0.0


def _mean(offsets: Array) -> tuple[float, float, float]:
    lengths = np.linalg.norm(offsets, axis=1)
    most = lengths > 0.6 * lengths.max(initial=0.0)
    x, y, z = offsets[most].mean(axis=0) if most.any() else np.zeros(3)
    return float(x), float(y), float(z)


def _degrees(rise: float, run: float) -> float:
    return float(np.degrees(np.arctan2(rise, run)))


def _centre(points: Array, offsets: Array) -> Array:
    energy = (offsets**2).sum(axis=1)
    return np.asarray(energy @ points / max(float(energy.sum()), 1e-30))


def _spans(points: Array, shapes: Mapping[str, Array], edges: Mapping[str, Edge]) -> dict[str, float]:
    out = {}
    lids = [_centre(points, shapes[s]) for s in ("eyeBlinkLeft", "eyeBlinkRight") if s in shapes]
    corners = [_centre(points, shapes[s]) for s in ("mouthSmileLeft", "mouthSmileRight") if s in shapes]
    if len(lids) == 2:
        out["eyes"] = float(np.linalg.norm(lids[0] - lids[1]))
    if len(corners) == 2:
        out["mouth"] = float(np.linalg.norm(corners[0] - corners[1]))
    elif "lips" in edges:
        out["mouth"] = edges["lips"].size * 1.3
    if len(lids) == 2 and len(corners) == 2:
        out["face"] = float(np.linalg.norm(np.mean(lids, axis=0) - np.mean(corners, axis=0)))
    return out


@dataclass(frozen=True)
class Proposal:
    """field: of the sheet ("wayStrength", "shapeStrength", "directions"); name: its key; value; was: what stands there; ours,
    theirs: what was measured on performer and character; words: why.
    """

    field: str
    name: str
    value: float
    was: float
    ours: float
    theirs: float
    words: str


def propose_proportions(performer: Mapping[str, float], character: Mapping[str, float], sheet: Mapping[str, Mapping[str, float]]
                        ) -> list[Proposal]:  # fmt: skip
    """Strengths each way and directions that make the character go as far, for its size, as the performer does."""
    out: list[Proposal] = []

    def offer(
        field: str, name: str, value: float, ours: float, theirs: float, words: str, rest: float, worth: float
    ) -> None:
        was = float(sheet.get(field, {}).get(name, rest))
        if abs(value - was) >= worth:
            out.append(Proposal(field, name, round(value, 3), was, round(ours, 4), round(theirs, 4), words))

    for way in WAYS:
        if way in performer and way in character and not way.startswith(("lids", "gaze")):
            ours, theirs = performer[way], character[way]
            value = float(np.clip(ours / theirs, MIN_STRENGTH, MAX_STRENGTH)) if theirs > 0 else 1.0
            words = f"The performer goes {ours:.0%} of the {_SPAN[way.split()[0]]}, the character {theirs:.0%}."
            offer("wayStrength", way, value, ours, theirs, words, 1.0, WORTH)
    for side in ("left", "right"):
        meets = character.get(f"lid {side}")
        if meets and 0.3 < meets < 2:
            words = f"Its lids meet at {meets:.0%} of the blink" + (
                ", beyond it they pass each other." if meets < 1 else "."
            )
            value = float(np.clip(meets, MIN_STRENGTH, MAX_STRENGTH))
            offer("shapeStrength", f"eyeBlink{side.capitalize()}", value, 1.0, meets, words, 1.0, WORTH)
    for name in ("jaw aside", "jaw forward", "lips left", "lips right"):
        key = f"direction: {name}"
        if key in performer and key in character:
            turn = (performer[key] - character[key] + 180) % 360 - 180
            words = (
                f"The performer's travel lies at {performer[key]:.0f} deg, the character's at {character[key]:.0f} deg."
            )
            if abs(turn) <= 60:
                value = float(np.clip(turn, -TURN_MOST, TURN_MOST))
                offer("directions", name, value, performer[key], character[key], words, 0.0, TURN_WORTH)
    return out
