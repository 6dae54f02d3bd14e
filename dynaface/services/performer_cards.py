"""Performer cards: proposing neutral and samples, making a card, listing them."""

from typing import Any

import numpy as np

from dynaface.core.errors import InputError, NotFoundError
from dynaface.core.records.records import Document, Job
from dynaface.core.shapes.standard import SHAPES
from dynaface.core.solve.card import PerformerCard
from dynaface.formats.card_file import read_card, write_card
from dynaface.formats.head_file import general_head
from dynaface.services.bake_handover import Progress
from dynaface.services.load_source import load_footage
from dynaface.services.prepare_footage import PART, landmarks_of, unpacked
from dynaface.services.solve_footage import FOV, Samples, card_of_clip, make_card, stillest, with_landmarks
from dynaface.services.work import Work, allow, document_for, source_for

CLEAR = 0.25  # learned score above rest at which an expression counts as shown


def propose_samples(work: Work, take: str) -> dict[str, Any]:
    """The stillest second, and for each shape the frame in which it is most shown, by the learned scores."""
    with work.store.unit() as unit:
        found = document_for(work, unit, take, "take")
        held = found.body["sources"].get("footage")
        if not held:
            raise InputError("this take has no footage", hint="Bring in a clip at the Gather desk")
        source = source_for(work, unit, held)
        rows = unit.sources.read_block(held, PART)
    if rows is None:
        raise InputError("this footage has not been looked through yet", hint="Wait for its job to end")
    landmarks = [unpacked(r) for r in rows]
    first, last = stillest(landmarks, float(load_footage(work, source).rate))
    scores = np.array([m.scores if m else np.zeros(len(SHAPES)) for m in landmarks])
    rise = scores - np.median(scores[first : last + 1], axis=0)
    samples = {s: int(np.argmax(rise[:, i])) for i, s in enumerate(SHAPES) if rise[:, i].max() > CLEAR}
    strength = {s: round(float(rise[:, SHAPES.index(s)].max()), 3) for s in samples}
    return {"neutral": (first, last), "samples": samples, "strength": strength}


def make_performer_card(work: Work, job: Job, progress: Progress) -> dict[str, Any]:
    """The work itself, in the worker: the card of a take's footage."""
    asked = job.request
    with work.store.unit() as unit:
        take = document_for(work, unit, asked["take"], "take")
        source = source_for(work, unit, take.body["sources"]["footage"])
    footage = load_footage(work, source)
    looks = with_landmarks(footage, landmarks_of(work, source, footage, progress))
    progress(0.9, "measuring the face")
    fov = float(asked.get("fov") or FOV)
    if asked.get("neutral"):
        turn = None
        if asked.get("turn"):
            with work.store.unit() as unit:
                turned = document_for(work, unit, asked["turn"], "take")
                turn = load_footage(work, source_for(work, unit, turned.body["sources"]["footage"]))
        card = make_card(footage, Samples(tuple(asked["neutral"]), asked["samples"]), turn, fov, looks=looks)
    else:
        card = card_of_clip(footage, fov, looks)
    body = {
        "name": asked["name"], "performer": take.body["performer"], "day": job.created.date().isoformat(),
        "footage": source.id, "neutral": asked.get("neutral"), "samples": asked.get("samples", {}),
    }  # fmt: skip
    return {"card": store_card(work, take.production, card, body).id}


def store_card(work: Work, production: str, card: PerformerCard, body: dict[str, Any]) -> Document:
    """Keeps a card: its numbers in the media store, what people see of it as a document."""
    media, size = work.media.put_bytes(write_card(card))
    with work.store.unit() as unit:
        allow(unit, production, work.person)
        info = {"sampled": int(card.sampled.sum()), "fov": card.fov}
        made = unit.sources.add(production, "card", f"{body['name']}.json", media, size, info)
        return unit.documents.add(production, "card", {**body, "source": made.id})


def list_cards(work: Work, production: str) -> list[dict[str, Any]]:
    """All cards that are not archived."""
    with work.store.unit() as unit:
        allow(unit, production, work.person)
        cards = [c for c in unit.documents.of_kind(production, "card") if not c.body.get("archived")]
        sources = {s.id: s for s in unit.sources.many([c.body["source"] for c in cards if c.body.get("source")])}
    return [
        {"id": c.id, "version": c.version, "name": c.body["name"], "performer": c.body["performer"], "day": c.body["day"],
         "sampled": sources[c.body["source"]].info["sampled"] if c.body.get("source") in sources else 0,
         "ready": c.body.get("source") in sources}
        for c in cards
    ]  # fmt: skip


def load_card(work: Work, card: str) -> PerformerCard:
    """A stored card."""
    with work.store.unit() as unit:
        found = document_for(work, unit, card, "card")
        source = unit.sources.get(found.body.get("source") or "")
    if source is None:
        raise NotFoundError("this performer card is not ready")
    return read_card(work.media.get(source.media), general_head())
