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
from dynaface.core.track.lens import Lens
from dynaface.formats.card_file import read_card, write_card
from dynaface.formats.head_file import general_head
from dynaface.pipelines.measure_lens import measure_lens
from dynaface.pipelines.progress import Progress
from dynaface.pipelines.solve_footage import (
    Found,
    Samples,
    card_of_clip,
    make_card,
    neutral_of_clip,
    same_shape,
    views_of,
)
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
    given = asked.get("fov")
    lens = describe_lens("given" if given else "assumed", Lens(*[float(given or FOV)] * 3))
    if asked.get("neutral"):
        turn = turned = None
        if asked.get("turn"):
            _, around = footage_of(work, asked["turn"])
            turn = load_footage(work, around)
            turned = landmarks_of(work, job, around, turn, progress)
            if given is None:
                lens = _lens_of(turn, turned) or lens
        samples, again = asked["samples"], asked.get("again", {})
        views = _taken_again(work, job, again, footage, progress)
        card = make_card(footage, Samples(tuple(asked["neutral"]), samples), turn, lens["fov"], found, turned, views)
    else:
        card = card_of_clip(footage, found, neutral_of_clip(footage, found, fov=lens["fov"]), lens["fov"])
    about = {
        "name": asked["name"], "performer": take.body.performer, "day": job.created.date().isoformat(),
        "footage": source.id, "neutral": asked.get("neutral"), "samples": asked.get("samples", {}),
        "again": asked.get("again", {}), "lens": lens,
    }  # fmt: skip
    return {"card": store_card(work, take.production, card, about)[0].id, "lens": lens}


def describe_lens(how: str, lens: Lens) -> dict[str, Any]:
    """A lens as it is kept with a card; how: "measured", "given" or "assumed"."""
    return {"how": how, **{n: round(v, 2) for n, v in (("fov", lens.fov), ("low", lens.low), ("high", lens.high))}}


def _lens_of(turn: Footage, turned: Found) -> dict[str, Any] | None:
    """The lens of a head turn; None where it does not say, which is no reason not to make the card."""
    try:
        return describe_lens("measured", measure_lens(turn, turned))
    except InputError:
        return None


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
    """Keeps a card: its numbers in the media store, what people see of it as a document; both are given. given: the document's
    fields, and the lens where more is known of it than the card says.
    """
    given = dict(given)
    lens = given.pop("lens", None) or describe_lens("given", Lens(card.fov, card.fov, card.fov))
    media, size = work.media.put_bytes(write_card(card))
    identity = work.made("card")
    with work.store.unit() as unit:
        allow(unit, production, work.person)
        if unit.sources.get(identity) is not None:  # an earlier attempt at the job came this far
            return next(c for c in unit.documents.of_kind(production, CardBody) if c.body.source == identity), media
        info = {"sampled": int(card.sampled.sum()), "lens": lens}
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
         "sampled": info.get("sampled", 0), "ready": c.body.source in sources, "lens": info.get("lens"),
         "off": list(c.body.left_out), "drives": c.body.plain()["drives"]}
        for c in cards
        for info in [sources[c.body.source].info if c.body.source in sources else {}]
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
