"""The presets of a production's handovers."""

from dynaface.core.documents.model.presets import PresetsBody, fresh_presets
from dynaface.core.documents.model.record import parse
from dynaface.core.records.records import Document
from dynaface.services.work import Work, add_document, allow

PRESETS_KEY = "handover presets"


def own_presets(work: Work, production: str) -> Document[PresetsBody]:
    """The production's presets, made where there are none yet."""
    body = parse(PresetsBody, {"presets": fresh_presets()}, "the presets")
    with work.store.unit() as unit:
        allow(unit, production, work.person)
        return add_document(unit, production, body, PRESETS_KEY)
