"""What is known of a character before any take: its health report, and what its mesh says."""

from typing import Any

from dynaface.core.cast.health import examine_character
from dynaface.core.documents.model.character import CharacterBody
from dynaface.core.records.records import Source
from dynaface.services.load_source import load_character, load_geometry
from dynaface.services.work import Work, document_for, source_within


def _source(work: Work, character: str) -> Source:
    with work.store.unit() as unit:
        found = document_for(work, unit, character, CharacterBody)
        return source_within(unit, found.production, found.body.source, "character")


def character_health(work: Work, of: str) -> dict[str, Any]:
    """Which shapes are there, and what does not do what it says."""
    source = _source(work, of)
    character, geometry = load_character(work, source), load_geometry(work, source)
    found = work.cache.get_or_make(f"health {source.id}", lambda: examine_character(character, geometry))
    return found.describe()


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
