"""Colour dots of a performer and day: begun from a clip, picked one after the other in its pictures, listed."""

from datetime import UTC, datetime

from dynaface.core import checks
from dynaface.core.documents.kinds import DOTS_OWN
from dynaface.core.dots.dot import DotLayout, parse_dots, picked_dot
from dynaface.core.dots.solve import HEAD, NEITHER
from dynaface.core.errors import InputError
from dynaface.core.markers.chart import MARKS
from dynaface.core.records.records import Document
from dynaface.core.track.footage import Footage
from dynaface.core.track.neutral import stillest, wanders
from dynaface.services.edit_document import edit_document
from dynaface.services.load_source import load_footage
from dynaface.services.measure_footage import PART, unpacked
from dynaface.services.take_sources import footage_of
from dynaface.services.work import Work, allow, document_for, source_for

FOV = 60.0  # degrees of the lens on a head mount of which nothing is known


def dots_of(document: Document) -> DotLayout:
    """The dots that a document holds."""
    return parse_dots({"dynafaceDots": 1, **{k: v for k, v in document.body.items() if k not in DOTS_OWN}})


def begin_dots(work: Work, take: str, name: str) -> Document:
    """An empty layout of dots for a take's clip; its neutral is the clip's stillest second, where that is known, and what moves is
    told from how far the face wanders in the picture.
    """
    found, source = footage_of(work, take)
    clip = load_footage(work, source)
    with work.store.unit() as unit:
        rows = unit.sources.read_block(source.id, PART)
    faces = [unpacked(r) for r in rows] if rows is not None else []
    neutral = stillest(faces, float(clip.rate)) if any(faces) else (0, min(10, clip.frames - 1))
    layout = DotLayout((clip.width, clip.height), (), FOV, neutral=(int(neutral[0]), int(neutral[1])),
                       moves=HEAD if wanders([f for f in faces if f]) else NEITHER)  # fmt: skip
    body = {k: v for k, v in layout.describe().items() if k != "dynafaceDots"} | {
        "name": name, "performer": found.body["performer"], "day": datetime.now(UTC).date().isoformat(), "footage": source.id}  # fmt: skip
    with work.store.unit() as unit:
        allow(unit, found.production, work.person)
        return unit.documents.add(found.production, "dots", body)


def open_dots(work: Work, dots: str) -> tuple[Document, Footage]:
    """A layout of dots and the clip in which they were picked."""
    with work.store.unit() as unit:
        found = document_for(work, unit, dots, "dots")
        source = source_for(work, unit, found.body["footage"])
    return found, load_footage(work, source)


def list_dots(work: Work, production: str) -> list[Document]:
    """All layouts of dots that are not archived, oldest first."""
    with work.store.unit() as unit:
        allow(unit, production, work.person)
        return [d for d in unit.documents.of_kind(production, "dots") if not d.body.get("archived")]


def pick(work: Work, dots: str, frame: int, x: float, y: float, place: str, mirror: bool) -> Document:
    """A dot picked in the layout's clip and put on a place, in place of the one that was there; its partner on the other side goes
    with it where it is found and that place is empty. It can be undone.
    """
    checks.one_of("place", place, tuple(MARKS))
    found, clip = open_dots(work, dots)
    layout = dots_of(found)
    if not 0 <= frame < clip.frames:
        raise InputError(f"frame {frame} is not in a clip of {clip.frames} frames")
    picture = next(clip.pictures(frame))
    layout = picked_dot(picture, layout, x, y, place, mirror)
    change = [{"path": "dots", "value": layout.describe()["dots"]}]
    return edit_document(work, dots, found.version, f"pick {place}", change)
