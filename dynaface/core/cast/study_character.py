"""Studies a character's mesh: what its foreign names mean, which way its joints go, where lips and lids meet, how far it goes."""

import numpy as np

from dynaface.core.body.skeleton import Skeleton
from dynaface.core.cast.character import Character
from dynaface.core.cast.edges import find_edges
from dynaface.core.cast.geometry import Geometry
from dynaface.core.cast.match import Match
from dynaface.core.cast.measures import of_geometry
from dynaface.core.cast.propose_joints import propose_drives
from dynaface.core.cast.recognise import recognise
from dynaface.core.cast.standard_face import StandardFace
from dynaface.core.cast.study import Study
from dynaface.core.contact.head_surface import HeadSurface, surface_of_points
from dynaface.core.match.anatomy import anatomy_of

HELD = 0.5  # of a vertex that joints of the head hold at least, for it to be the head's


def study_character(character: Character, geometry: Geometry, standard: StandardFace) -> Study:
    """Everything that needs the mesh, worked out once."""
    named: dict[str, Match] = {t: m for t in character.targets if (m := character.named(t)) is not None}
    alone = {t: m.parts[0][0] for t, m in named.items() if m.how == "name"}
    shaped: dict[str, Match] = {}
    guesses: dict[str, Match] = {}
    if len(named) < len(character.targets):
        shaped, guesses = recognise(geometry, standard, alone)
    shaped = {t: m for t, m in shaped.items() if t not in named}
    guesses = {t: m for t, m in guesses.items() if t not in named}
    parts = {t: m.parts for t, m in {**shaped, **named}.items()}
    driven = {s for made in parts.values() for s, _ in made}
    edges = find_edges(geometry, parts)
    measures = of_geometry(geometry, parts, edges)
    return Study(
        shaped,
        guesses,
        propose_drives(character.skeleton, geometry, driven),
        edges,
        _travel(geometry, parts),
        measures,
        head_surface(character.skeleton, geometry),
    )


def head_surface(skeleton: Skeleton | None, geometry: Geometry) -> HeadSurface | None:
    """The surface of what the head's joint and those below it hold of the face; None without a head or where joints hold nothing of it."""
    joint = anatomy_of(skeleton).joint("head") if skeleton else -1
    if skeleton is None or joint < 0:
        return None
    own = {skeleton.names[j] for j in range(joint, len(skeleton.names)) if skeleton.carries(joint, j)}
    mesh = geometry.face
    if mesh is None:
        return None
    held = sum((mesh.held[n] for n in own if n in mesh.held), np.zeros(len(mesh.points)))
    return surface_of_points(mesh.points[held > HELD])


def _travel(geometry: Geometry, parts: dict[str, tuple[tuple[str, float], ...]]) -> dict[str, float]:
    """How much further the opening jaw goes than the jaw aside or ahead."""
    face = geometry.face
    if face is None:
        return {}

    def far(shape: str) -> float:
        found = [np.linalg.norm(face.offsets[t], axis=1).max() for t, made in parts.items()
                 if t in face.offsets and any(s == shape for s, _ in made)]  # fmt: skip
        return float(max(found, default=0.0))

    opened, aside, ahead = far("jawOpen"), max(far("jawLeft"), far("jawRight")), far("jawForward")
    out = {}
    if opened and aside:
        out["open to aside"] = opened / aside
    if opened and ahead:
        out["open to forward"] = opened / ahead
    return out
