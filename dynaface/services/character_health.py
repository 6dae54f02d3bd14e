"""The health report of a character."""

from functools import lru_cache
from typing import Any

from dynaface.core.cast.health import Health, examine_character
from dynaface.formats.gltf.character import read_character
from dynaface.formats.gltf.geometry import read_geometry
from dynaface.services.work import Work, document_for, source_for


@lru_cache(maxsize=8)
def _examined(media: Any, medium: str) -> Health:
    data = media.get(medium)
    return examine_character(read_character(data), read_geometry(data))


def character_health(work: Work, character: str) -> dict[str, Any]:
    """Which shapes are there, and what does not do what it says."""
    with work.store.unit() as unit:
        found = document_for(work, unit, character, "character")
        source = source_for(work, unit, found.body["source"])
    return _examined(work.media, source.media).describe()
