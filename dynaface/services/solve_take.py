"""Solving a take's footage into curves: in the worker, and the list of what was solved."""

from datetime import UTC, datetime
from typing import Any

import numpy as np

from dynaface.core.errors import InputError, NotFoundError
from dynaface.core.records.records import Job, Source
from dynaface.core.shapes.regions import REGION, REGIONS
from dynaface.core.shapes.standard import SHAPES
from dynaface.core.solve.clip import SURE
from dynaface.formats.entries.curve_table import read_table, write_table
from dynaface.services.bake_handover import Progress
from dynaface.services.edit_document import edit_document
from dynaface.services.load_source import load_footage
from dynaface.services.performer_cards import load_card
from dynaface.services.prepare_footage import EVERY, PART, landmarks_of
from dynaface.services.solve_footage import card_of_clip, even_channels, solve_footage, with_landmarks
from dynaface.services.work import Work, document_for, source_for

CONFIDENCE = "confidence:f4"


def solve_take(work: Work, job: Job, progress: Progress) -> dict[str, Any]:
    """The work itself: a new solve, kept beside the older ones and chosen for the take."""
    asked = job.request
    with work.store.unit() as unit:
        take = document_for(work, unit, asked["take"], "take")
        source = source_for(work, unit, take.body["sources"]["footage"])
        person = unit.people.by_id(work.person)
        card_name = document_for(work, unit, asked["card"], "card").body["name"] if asked.get("card") else ""
    footage = load_footage(work, source)
    landmarks = landmarks_of(work, source, footage, lambda part, words: progress(0.4 * part, words))
    progress(0.4, "measuring the face")
    card = (
        load_card(work, asked["card"])
        if asked.get("card")
        else card_of_clip(footage, looks=with_landmarks(footage, landmarks))
    )
    first, last = int(asked["first"]), asked.get("last")
    count = (footage.frames - 1 if last is None else min(int(last), footage.frames - 1)) - first + 1

    def told(frame: int) -> None:
        if frame % EVERY == 0:
            progress(0.45 + 0.5 * frame / max(count, 1), f"frame {frame} of {count}")

    made = solve_footage(footage, card, first, last, told, with_landmarks(footage, landmarks))
    progress(0.96, "storing")
    sure = made.confidence[:, : len(SHAPES)][:, card.solved]
    about = {
        "card": card_name, "by": person.name if person else "", "first": first, "frames": made.channels.frames,
        "confidence": round(float(sure.mean()), 4), "unsure": int((sure.mean(axis=1) < SURE).sum()),
        "lost": int(np.isnan(made.places[:, 0]).sum()),
    }  # fmt: skip
    raw = write_table(even_channels(made, footage, first))
    stored = store_solve(work, take.id, source, raw, by_region(made.confidence), about)
    return {"source": stored.id}


def store_solve(work: Work, take: str, footage: Source, table: bytes, confidence: np.ndarray, about: dict[str, Any]
                ) -> Source:  # fmt: skip
    """Keeps a solve as curves of its own and chooses it for the take; confidence: (frames, regions)."""
    recording, report = read_table(table)
    media, size = work.media.put_bytes(table)
    made = {"footage": footage.id, "made": datetime.now(UTC).isoformat(timespec="seconds"), **about}
    info = {k: v for k, v in report.describe().items() if k != "header"} | {"solve": made}
    with work.store.unit() as unit:
        number = len(unit.sources.solves_of(footage.id)) + 1
        stored = unit.sources.add(footage.production, "curves", f"solve {number}", media, size, info)
        unit.sources.write_block(stored.id, "times:f8", recording.times)
        unit.sources.write_block(stored.id, "values:f4", recording.values)
        unit.sources.write_block(stored.id, CONFIDENCE, confidence)
        version = document_for(work, unit, take, "take").version
    edit_document(work, take, version, f"choose solve {number}", [{"path": "sources/curves", "value": stored.id}])
    return stored


def by_region(confidence: np.ndarray) -> np.ndarray:
    """(frames, channels of a solve) -> (frames, regions) mean confidence of the channels of each region."""
    columns = [[i for i, s in enumerate(SHAPES) if REGION[s] == region] for region in REGIONS]
    head = confidence[:, len(SHAPES) :].mean(axis=1)
    return np.stack([confidence[:, c].mean(axis=1) if c else head for c in columns], axis=1).astype(np.float32)


def list_solves(work: Work, take: str) -> list[dict[str, Any]]:
    """Solves of a take's footage, newest first."""
    with work.store.unit() as unit:
        found = document_for(work, unit, take, "take")
        held = found.body["sources"].get("footage")
        solves = unit.sources.solves_of(held) if held else []
    keys = ("by", "card", "made", "frames", "confidence", "unsure", "lost")
    return [{"source": s.id, "name": s.name, **{k: s.info["solve"][k] for k in keys}} for s, _ in solves]


def fetch_confidence(work: Work, source: str) -> np.ndarray:
    """(frames, regions) of a solve."""
    with work.store.unit() as unit:
        source_for(work, unit, source)
        found = unit.sources.read_block(source, CONFIDENCE)
    if found is None:
        raise NotFoundError("this source is no solve of footage")
    return found


def fetch_points(work: Work, source: str) -> np.ndarray:
    """(frames, 478, 2) pixels of the landmarks of footage, NaN where no face was seen."""
    with work.store.unit() as unit:
        source_for(work, unit, source)
        rows = unit.sources.read_block(source, PART)
    if rows is None:
        raise InputError("this footage has not been looked through yet", hint="Wait for its job to end")
    return rows[:, : 2 * 478].reshape(len(rows), 478, 2)


def fetch_proxy(work: Work, source: str) -> tuple[str, bytes]:
    """(medium, bytes) of the proxy of footage."""
    with work.store.unit() as unit:
        found = source_for(work, unit, source)
    media = found.info.get("proxy")
    if not media:
        raise NotFoundError("this footage has no proxy yet")
    return media, work.media.get(media)
