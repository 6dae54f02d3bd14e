"""Solving a take's footage into curves: in the worker, and the list of what was solved."""

from datetime import UTC, datetime
from typing import Any

import numpy as np

from dynaface.core.clock.rates import parse_rate
from dynaface.core.documents.model.take import TakeBody
from dynaface.core.errors import NotFoundError
from dynaface.core.handover.file_name import file_name
from dynaface.core.records.records import Job, Source
from dynaface.core.shapes.regions import FACE, SHAPES_OF
from dynaface.core.shapes.standard import SHAPES
from dynaface.core.solve.camera_motion import camera_motion
from dynaface.core.solve.clip import CAMERA, HEAD, SURE
from dynaface.core.solve.confidence import LIKE
from dynaface.core.track.footage import Footage
from dynaface.formats.camera_table import write_camera
from dynaface.formats.card_file import write_card
from dynaface.formats.entries.curve_table import read_table, write_table
from dynaface.pipelines.progress import Progress
from dynaface.pipelines.solve_footage import (
    Found,
    card_of_clip,
    even_channels,
    finish_footage,
    neutral_of_clip,
    span_of,
    with_drives,
)
from dynaface.services.edit_document import edit_document
from dynaface.services.footage.measure_footage import landmarks_of, measured_by
from dynaface.services.footage.performer_cards import card_by, drives_of, medium_of_card
from dynaface.services.load_source import load_footage
from dynaface.services.take.find_take_snags import count_snags
from dynaface.services.take.take_sources import footage_of
from dynaface.services.work import Work, document_for, source_for
from dynaface.store.media import Medium

CONFIDENCE, POSES = "confidence:f4", "poses:f4"


def solve_take(work: Work, job: Job, progress: Progress) -> dict[str, Any]:
    """The work itself: a new solve, kept beside the older ones and chosen for the take."""
    asked = job.request
    take, source = footage_of(work, asked["take"])
    footage = load_footage(work, source)
    first, last = _asked_span(take.body, footage, asked.get("first"), asked.get("last"))
    found = landmarks_of(work, job, source, footage, lambda part, words: progress(0.4 * part, words))
    progress(0.4, "measuring the face")
    name, medium, neutral = _card(work, asked.get("card"), footage, found, asked.get("neutral"))
    measured = measured_by(
        work, job, source, medium, (first, last), lambda part, words: progress(0.4 + 0.55 * part, words)
    )
    progress(0.96, "solving all frames together")
    tacks = list(take.body.tacked)
    card = card_by(work, medium, asked.get("card"))
    moves = asked.get("moves", HEAD)
    made = finish_footage(footage, card, measured, first, tacks, moves)
    made = with_drives(made, footage, card, found, first, drives_of(work, asked.get("card")))
    sure = made.confidence[:, : len(SHAPES)][:, card.solved]
    about = about_solve(work, name, moves, sure, int(np.isnan(made.poses[:, 0]).sum())) | {
        "cardMedium": medium, "first": first, "arc": True, "tacks": sum(first <= p.frame <= last for p in tacks),
        "neutral": neutral, "neutralAt": asked.get("neutral"), "fits": round(made.fits, 4)}  # fmt: skip
    raw = write_table(even_channels(made, footage, first))
    stored = store_solve(work, take.id, source, raw, by_region(made.confidence), made.poses, about)
    return {"source": stored.id}


def _asked_span(take: TakeBody, footage: Footage, first: int | None, last: int | None) -> tuple[int, int]:
    """The frames that are asked for; where none are, those of the clip's in and out with their handles."""
    if first is None and last is None and take.solved_span is not None:
        return take.solved_span.within(footage.frames)
    return span_of(footage, first or 0, last)


def about_solve(work: Work, card: str, moves: str, sure: np.ndarray, lost: int = 0) -> dict[str, Any]:
    """What is stored about any solve. card: by what it was made; moves: one of MOVES; sure: (frames, n) confidence 0..1 of what was
    solved at all; lost: frames in which nothing was seen.
    """
    with work.store.unit() as unit:
        person = unit.people.by_id(work.person)
    return {"card": card, "by": person.name if person else "", "first": 0, "moves": moves, "tacks": 0, "frames": len(sure),
            "confidence": round(float(sure.mean()), 4), "unsure": int((sure.mean(axis=1) < SURE).sum()), "lost": lost}  # fmt: skip


def _card(
    work: Work, chosen: str | None, footage: Footage, found: Found, neutral: int | None
) -> tuple[str, str, list[int]]:
    """(name, medium, frames that were taken for neutral) of the chosen card, or of one made from nothing but the clip."""
    if chosen is not None:
        return (*medium_of_card(work, chosen), [])
    frames = neutral_of_clip(footage, found, neutral)
    return "", work.media.put_bytes(write_card(card_of_clip(footage, found, frames)))[0], frames


def store_solve(work: Work, take: str, footage: Source, table: bytes, confidence: np.ndarray, poses: np.ndarray,
                about: dict[str, Any]) -> Source:  # fmt: skip
    """Keeps a solve as curves of its own and chooses it for the take; confidence: (frames, regions); poses: (frames, 7)."""
    recording, report = read_table(table)
    media, size = work.media.put_bytes(table)
    made = {"footage": footage.id, "made": datetime.now(UTC).isoformat(timespec="seconds"), **about}
    info = {k: v for k, v in report.describe().items() if k != "header"} | {"solve": made}
    identity = work.made("solve")
    with work.store.unit() as unit:
        stored = unit.sources.get(identity)
        if stored is None:
            number = len(unit.sources.solves_of(footage.id)) + 1
            stored = unit.sources.add(footage.production, "curves", f"solve {number}", media, size, info, identity)
            unit.sources.write_block(stored.id, "times:f8", recording.times)
            unit.sources.write_block(stored.id, "values:f4", recording.values)
            unit.sources.write_block(stored.id, CONFIDENCE, confidence)
            unit.sources.write_block(stored.id, POSES, poses)
        document = document_for(work, unit, take, TakeBody)
    if document.body.sources.curves != stored.id:
        chosen = [{"path": "sources/curves", "value": stored.id}]
        edit_document(work, take, document.version, f"choose {stored.name}", chosen)
    count_snags(work, take)
    return stored


def by_region(confidence: np.ndarray) -> np.ndarray:
    """(frames, channels of a solve) -> (frames, regions) confidence of what is solved of each region, 0 where nothing is."""
    angles = confidence[:, len(SHAPES) :]
    head = angles.mean(axis=1) if angles.shape[1] else np.zeros(len(confidence))
    return np.stack(
        [confidence[:, own].max(axis=1) if (own := SHAPES_OF[region]) else head for region in FACE], axis=1
    ).astype(np.float32)


def list_solves(work: Work, take: str) -> list[dict[str, Any]]:
    """Solves of a take's footage, or markers, newest first."""
    with work.store.unit() as unit:
        found = document_for(work, unit, take, TakeBody)
        held = [s for s in (found.body.sources.footage, found.body.sources.markers) if s]
        solves = [s for source in held for s in unit.sources.solves_of(source)]
    keys = ("by", "card", "made", "first", "frames", "confidence", "unsure", "lost", "moves", "tacks")
    return [{"source": s.id, "name": s.name, **{k: s.info["solve"][k] for k in keys},
             "neutral": s.info["solve"].get("neutral", []), "unlike": s.info["solve"].get("fits", 1.0) < LIKE} for s, _ in solves]  # fmt: skip


def fetch_confidence(work: Work, source: str) -> np.ndarray:
    """(frames, regions) of a solve."""
    with work.store.unit() as unit:
        source_for(work, unit, source)
        found = unit.sources.read_block(source, CONFIDENCE)
    if found is None:
        raise NotFoundError("this source is no solve of footage")
    return found


def fetch_camera(work: Work, source: str) -> tuple[str, bytes]:
    """(file name, table) of the camera's motion round the head, of a solve in which the camera moves."""
    with work.store.unit() as unit:
        found = source_for(work, unit, source)
        about = found.info.get("solve", {})
        poses = unit.sources.read_block(source, POSES)
        if poses is None or about.get("moves") != CAMERA:
            raise NotFoundError("the camera does not move in this solve", hint="Solve with a camera round a still head")
        footage = source_for(work, unit, about["footage"])
    rate = parse_rate(footage.info["rate"])
    name = f"{file_name(footage.name.rsplit('.', 1)[0])}_camera.csv"
    return name, write_camera(camera_motion(poses.astype(np.float64)), rate, about["first"])


def fetch_proxy(work: Work, source: str) -> Medium:
    """The proxy of footage, to be read in parts."""
    with work.store.unit() as unit:
        found = source_for(work, unit, source)
    media = found.info.get("proxy")
    if not media:
        raise NotFoundError("this footage has no proxy yet")
    return work.media.open(media)
