"""What is known of a character before any take: its health report, and what its mesh says."""

from functools import lru_cache
from typing import Any

from dynaface.core.cast.geometry import Geometry
from dynaface.core.cast.health import Health, examine_character
from dynaface.core.records.records import Source
from dynaface.services.by_identity import Same
from dynaface.services.load_source import load_character, load_geometry
from dynaface.services.work import Work, document_for, source_for


@lru_cache(maxsize=8)
def _examined(character: Same, geometry: Same) -> Health:
    return examine_character(character.value, geometry.value)


def _source(work: Work, character: str) -> Source:
    with work.store.unit() as unit:
        found = document_for(work, unit, character, "character")
        return source_for(work, unit, found.body["source"])


def character_health(work: Work, character: str) -> dict[str, Any]:
    """Which shapes are there, and what does not do what it says."""
    source = _source(work, character)
    geometry: Geometry = load_geometry(work, source)
    return _examined(Same(load_character(work, source)), Same(geometry)).describe()


def character_study(work: Work, character: str) -> dict[str, Any]:
    """What the mesh says: guesses for targets that are not matched, the rims that were found, how far each way goes."""
    study = load_character(work, _source(work, character)).study
    assert study is not None
    return {
        "guesses": [
            {"target": t, "shape": m.shape, "confidence": m.confidence} for t, m in study.guesses.items()
        ],
        "edges": {n: {"width": round(e.size * 1000, 1), "gap": round(float(e.gap.mean()) * 1000, 2)} for n, e in study.edges.items()},
        "measures": dict(study.measures),
    }  # fmt: skip
