"""Performer cards: making a card, listing and copying them."""

from collections.abc import Mapping
from dataclasses import replace
from typing import Any

import numpy as np

from dynaface.core.documents.model.card import CardBody
from dynaface.core.documents.model.record import parse
from dynaface.core.errors import InputError, NotFoundError
from dynaface.core.markers.drive import Drive
from dynaface.core.records.records import Document, Job
from dynaface.core.shapes.standard import SHAPES
from dynaface.core.solve.card import PerformerCard, View
from dynaface.core.track.camera import FOV
from dynaface.core.track.footage import Footage
from dynaface.formats.card_file import read_card, write_card
from dynaface.formats.head_file import general_head
from dynaface.pipelines.progress import Progress
from dynaface.pipelines.solve_footage import Samples, card_of_clip, make_card, neutral_of_clip, same_shape, views_of
from dynaface.services.edit_document import edited
from dynaface.services.footage.measure_footage import landmarks_of
from dynaface.services.load_source import load_footage
from dynaface.services.take.take_sources import footage_of
from dynaface.services.work import Work, add_document, allow, document_for, source_within


def make_performer_card(work: Work, job: Job, progress: Progress) -> dict[str, Any]:
    """The work itself, in the worker: the card of a take's footage."""
    asked = job.request
    take, source = footage_of(work, asked["take"])
    footage = load_footage(work, source)
    found = landmarks_of(work, job, source, footage, lambda part, words: progress(0.9 * part, words))
    progress(0.9, "measuring the face")
    fov = float(asked.get("fov") or FOV)
    if asked.get("neutral"):
        turn = turned = None
        if asked.get("turn"):
            _, around = footage_of(work, asked["turn"])
            turn = load_footage(work, around)
            turned = landmarks_of(work, job, around, turn, progress)
        samples, again = asked["samples"], asked.get("again", {})
        views = _taken_again(work, job, again, footage, progress)
        card = make_card(footage, Samples(tuple(asked["neutral"]), samples), turn, fov, found, turned, views)
    else:
        card = card_of_clip(footage, found, neutral_of_clip(footage, found, fov=fov), fov)
    given = {
        "name": asked["name"], "performer": take.body.performer, "day": job.created.date().isoformat(),
        "footage": source.id, "neutral": asked.get("neutral"), "samples": asked.get("samples", {}),
        "again": asked.get("again", {}),
    }  # fmt: skip
    return {"card": store_card(work, take.production, card, given)[0].id}


def _taken_again(work: Work, job: Job, again: Mapping[str, Any], rom: Footage, progress: Progress) -> dict[str, View]:
    """Views of samples that were taken again, each {"take", "frame"}."""
    out: dict[str, View] = {}
    for shape, where in again.items():
        take, source = footage_of(work, where["take"])
        clip = load_footage(work, source)
        if not same_shape((clip.width, clip.height), (rom.width, rom.height)):
            raise InputError(f"{shape} was taken again at {clip.width} x {clip.height} pixels, the range of motion is "
                             f"{rom.width} x {rom.height}", hint="Take it again with the same camera, or drop it")  # fmt: skip
        seen = views_of(clip, landmarks_of(work, job, source, clip, progress), {where["frame"]})
        if where["frame"] not in seen:
            raise InputError(
                f"no face is seen in frame {where['frame']} of {take.body.slate}, where {shape} was taken again"
            )
        out[shape] = seen[where["frame"]].scaled((rom.width, rom.height))
    return out


def store_card(
    work: Work, production: str, card: PerformerCard, given: dict[str, Any]
) -> tuple[Document[CardBody], str]:
    """Keeps a card: its numbers in the media store, what people see of it as a document; both are given."""
    media, size = work.media.put_bytes(write_card(card))
    identity = work.made("card")
    with work.store.unit() as unit:
        allow(unit, production, work.person)
        if unit.sources.get(identity) is not None:  # an earlier attempt at the job came this far
            return next(c for c in unit.documents.of_kind(production, CardBody) if c.body.source == identity), media
        info = {"sampled": int(card.sampled.sum()), "fov": card.fov}
        made = unit.sources.add(production, "card", f"{given['name']}.json", media, size, info, identity)
        return add_document(unit, production, parse(CardBody, {**given, "source": made.id}, "the card")), media


def list_cards(work: Work, production: str) -> list[dict[str, Any]]:
    """All cards that are not archived."""
    with work.store.snapshot() as unit:
        allow(unit, production, work.person)
        cards = [c for c in unit.documents.of_kind(production, CardBody) if not c.body.archived]
        sources = {s.id: s for s in unit.sources.many([c.body.source for c in cards if c.body.source])}
    return [
        {"id": c.id, "version": c.version, "name": c.body.name, "performer": c.body.performer, "day": c.body.day,
         "sampled": sources[c.body.source].info["sampled"] if c.body.source in sources else 0,
         "ready": c.body.source in sources, "off": list(c.body.left_out), "drives": c.body.plain()["drives"]}
        for c in cards
    ]  # fmt: skip


def copy_card(work: Work, card: str, day: str) -> Document[CardBody]:
    """The same card for another day; both can then be changed apart. Raises InputError where that day has it already."""
    with work.store.unit() as unit:
        found = document_for(work, unit, card, CardBody)
        if not found.body.source:
            raise InputError(f"the card {found.body.name} is not ready yet")
        name = f"{found.body.name.split(' (')[0]} ({day})"
        others = unit.documents.of_kind(found.production, CardBody)
        if any(o.body.name == name and not o.body.archived for o in others):
            raise InputError(f"there is a card {name} already", hint="Choose that one, or another day")
        return add_document(
            unit, found.production, edited(found.body, [{"path": "name", "value": name}, {"path": "day", "value": day}])
        )


def drives_of(work: Work, card: str | None) -> dict[str, Drive]:
    """The channels that a card has driven by distances on the face."""
    if card is None:
        return {}
    with work.store.unit() as unit:
        return document_for(work, unit, card, CardBody).body.driven


def load_card(work: Work, card: str) -> PerformerCard:
    """A stored card, with its shapes that are switched off."""
    return card_by(work, medium_of_card(work, card)[1], card)


def medium_of_card(work: Work, card: str) -> tuple[str, str]:
    """(name, medium) of a card; raises NotFoundError where it has not been measured yet."""
    with work.store.unit() as unit:
        found = document_for(work, unit, card, CardBody)
        if found.body.source is None:
            raise NotFoundError("this performer card is not ready")
        return found.body.name, source_within(unit, found.production, found.body.source, "card").media


def card_by(work: Work, medium: str, card: str | None) -> PerformerCard:
    """A card from its medium; the shapes that are switched off in its document, where it has one, are not solved."""
    made = read_card(work.media.get(medium), general_head())
    if card is None:
        return made
    with work.store.unit() as unit:
        off = document_for(work, unit, card, CardBody).body.left_out
    return replace(made, solved=made.solved & ~np.isin(SHAPES, off))
