"""Strengths proposed from what was measured on the performer's card and on the character."""

from dataclasses import asdict
from functools import lru_cache
from typing import Any

import numpy as np

from dynaface.core.cast.measures import of_shapes, propose_proportions
from dynaface.core.errors import InputError
from dynaface.core.shapes.standard import SHAPES
from dynaface.core.solve.card import PerformerCard
from dynaface.core.track.head import SKIN
from dynaface.formats.card_file import read_card
from dynaface.formats.head_file import general_head
from dynaface.services.load_source import load_character
from dynaface.services.open_take import open_take
from dynaface.services.work import Work, source_for


@lru_cache(maxsize=8)
def _measured(media: Any, medium: str) -> dict[str, float]:
    card: PerformerCard = read_card(media.get(medium), general_head())
    skin = np.unique(general_head().triangles[general_head().part == SKIN])
    return of_shapes(card.points[skin], dict(zip(SHAPES, card.shapes[:, skin], strict=True)), {})


def propose_for_take(work: Work, take: str) -> dict[str, Any]:
    """{"card": name, "proposals": [...]} for the take's performer and character; without a card only what the character's
    own mesh says.
    """
    opened = open_take(work, take)
    if opened["character"] is None:
        raise InputError("the take has no character", hint="Choose one first")
    performer = opened["take"].body["performer"]
    with work.store.unit() as unit:
        cards = [c for c in unit.documents.of_kind(opened["take"].production, "card")
                 if c.body["performer"] == performer and c.body.get("source") and not c.body.get("archived")]  # fmt: skip
        source = source_for(work, unit, opened["character"].body["source"])
        held = unit.sources.get(cards[-1].body["source"]) if cards else None
    study = load_character(work, source).study
    measured = _measured(work.media, held.media) if held else {}
    found = propose_proportions(measured, study.measures if study else {}, opened["cast"].body)
    return {"card": cards[-1].body["name"] if held else "", "proposals": [asdict(p) for p in found]}
