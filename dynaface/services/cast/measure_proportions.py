"""Strengths proposed from what was measured on the performer's card and on the character."""

from dataclasses import asdict
from typing import Any

import numpy as np

from dynaface.core.cast.measures import of_shapes, propose_proportions
from dynaface.core.documents.model.card import CardBody
from dynaface.core.errors import InputError
from dynaface.core.shapes.standard import SHAPES
from dynaface.core.track.head import SKIN
from dynaface.formats.card_file import read_card
from dynaface.formats.head_file import general_head
from dynaface.services.load_source import load_character
from dynaface.services.take.snapshot import read_documents
from dynaface.services.work import Work, source_within


def _measured(work: Work, medium: str) -> dict[str, float]:
    return work.cache.get_or_make(f"measures {medium}", lambda: _measure(work.media.get(medium)))


def _measure(data: bytes) -> dict[str, float]:
    card = read_card(data, general_head())
    skin = np.unique(general_head().triangles[general_head().part == SKIN])
    return of_shapes(card.points[skin], dict(zip(SHAPES, card.shapes[:, skin], strict=True)), {})


def propose_for_take(work: Work, take: str) -> dict[str, Any]:
    """{"card": name, "proposals": [...]} for the take's performer and character; without a card only what the character's
    own mesh says.
    """
    with work.store.snapshot() as unit:
        opened = read_documents(work, unit, take)
        production, performer = opened.take.production, opened.take.body.performer
        cards = [c for c in unit.documents.of_kind(production, CardBody)
                 if c.body.performer == performer and c.body.source and not c.body.archived]  # fmt: skip
        held = source_within(unit, production, cards[-1].body.source or "", "card") if cards else None
    if opened.rig is None or opened.cast is None:
        raise InputError("the take has no character", hint="Choose one first")
    study = load_character(work, opened.rig).study
    measured = _measured(work, held.media) if held else {}
    found = propose_proportions(measured, study.measures if study else {}, opened.cast.body.plain())
    return {"card": cards[-1].body.name if held else "", "proposals": [asdict(p) for p in found]}
