"""What layouts of optical markers and of colour dots have in common: made for a performer and day, listed, solved with in jobs."""

from collections.abc import Mapping
from datetime import UTC, datetime
from typing import Any, TypeVar

import numpy as np

from dynaface.core.documents.model.dots import DotsBody
from dynaface.core.documents.model.layout import LayoutBody
from dynaface.core.documents.model.record import parse
from dynaface.core.documents.model.take import TakeBody
from dynaface.core.errors import NotFoundError
from dynaface.core.records.records import Document
from dynaface.core.solve.extremes import extremes
from dynaface.services.edit_document import edit_document
from dynaface.services.work import Work, add_document, allow, document_for, source_for

L = TypeVar("L", LayoutBody, DotsBody)


def add_layout(
    work: Work, take: Document[TakeBody], kind: type[L], name: str, fields: Mapping[str, Any]
) -> Document[L]:
    """A new layout of today for a take's performer; raises InputError for fields that make no layout."""
    today = datetime.now(UTC).date().isoformat()
    body = parse(kind, {"name": name, "performer": take.body.performer, "day": today, **fields}, "the layout")
    with work.store.unit() as unit:
        allow(unit, take.production, work.person)
        return add_document(unit, take.production, body)


def layouts_of(work: Work, production: str, kind: type[L]) -> list[Document[L]]:
    """All of one kind that are not archived, oldest first."""
    with work.store.unit() as unit:
        allow(unit, production, work.person)
        return [d for d in unit.documents.of_kind(production, kind) if not d.body.archived]


def store_samples(work: Work, found: Document[L], weights: np.ndarray, neutral: tuple[int, int]) -> dict[str, Any]:
    """Puts the frame of each shape's extreme into a layout, as an edit; weights: (frames, shapes or more), NaN where unknown.

    The eyes' looks and the tongue move neither marker nor dot, so they get none.
    """
    shown = extremes(weights, neutral)
    frames = {s: f for s, (f, _) in shown.items() if not s.startswith("eyeLook") and s != "tongueOut"}
    with work.store.unit() as unit:
        version = document_for(work, unit, found.id, type(found.body)).version
    edit_document(work, found.id, version, "find samples", [{"path": "samples", "value": frames}])
    return {"samples": len(frames)}


def write_blocks(work: Work, source: str, blocks: Mapping[str, np.ndarray]) -> None:
    """Keeps arrays (frames, ...) beside a solve, by part; what is behind the frames is made flat."""
    with work.store.unit() as unit:
        for part, values in blocks.items():
            unit.sources.drop_block(source, part)
            unit.sources.write_block(source, part, values.reshape(len(values), -1))


def read_blocks(work: Work, source: str, parts: tuple[str, ...], solved: str) -> tuple[list[str], list[np.ndarray]]:
    """(labels, arrays) that a solve of "markers" or "dots" keeps; raises NotFoundError where the source is no such solve."""
    with work.store.unit() as unit:
        found = source_for(work, unit, source)
        blocks = [unit.sources.read_block(source, part) for part in parts]
    kept = [b for b in blocks if b is not None]
    if len(kept) < len(parts):
        raise NotFoundError(f"these curves are no solve of {solved}")
    return list(found.info["solve"][solved]["labels"]), kept
