"""Studies a character's mesh: what its foreign names mean, which way its joints go, where lips and lids meet, how far it goes."""

import numpy as np

from dynaface.core.cast.character import Character
from dynaface.core.cast.edges import find_edges
from dynaface.core.cast.geometry import Geometry
from dynaface.core.cast.match import Match
from dynaface.core.cast.measures import of_geometry
from dynaface.core.cast.propose_joints import propose_drives
from dynaface.core.cast.recognise import recognise
from dynaface.core.cast.standard_face import StandardFace
from dynaface.core.cast.study import Study


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
        shaped, guesses, propose_drives(character.skeleton, geometry, driven), edges, _travel(geometry, parts), measures
    )


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
