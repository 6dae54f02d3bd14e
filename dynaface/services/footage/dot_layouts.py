"""Colour dots of a performer and day: begun from a clip, picked one after the other in its pictures, listed."""

from typing import Any

from dynaface.core import checks
from dynaface.core.documents.changes import path_of
from dynaface.core.documents.model.dots import DotsBody, dots_fields
from dynaface.core.dots.dot import DotLayout, picked_dot
from dynaface.core.dots.solve import HEAD, NEITHER
from dynaface.core.errors import InputError
from dynaface.core.markers.chart import MARKS
from dynaface.core.records.records import Document
from dynaface.core.track.footage import Footage
from dynaface.core.track.neutral import stillest, wanders
from dynaface.services.edit_document import change_document
from dynaface.services.footage.seen_landmarks import SeenLandmarks
from dynaface.services.layouts import add_layout
from dynaface.services.load_source import load_footage
from dynaface.services.take.take_sources import footage_of
from dynaface.services.work import Work, document_for, source_within

FOV = 60.0  # degrees of the lens on a head mount of which nothing is known


def begin_dots(work: Work, take: str, name: str) -> Document[DotsBody]:
    """An empty layout of dots for a take's clip; its neutral is the clip's stillest second, where that is known, and what moves is
    judged by how far the face wanders in the picture.
    """
    found, source = footage_of(work, take)
    clip = load_footage(work, source)
    faces = SeenLandmarks(work, source)
    neutral = stillest(faces, float(clip.rate)) if any(faces) else (0, min(10, clip.frames - 1))
    layout = DotLayout((clip.width, clip.height), (), FOV, neutral=(int(neutral[0]), int(neutral[1])),
                       moves=HEAD if wanders(faces) else NEITHER)  # fmt: skip
    return add_layout(work, found, DotsBody, name, {"footage": source.id, **dots_fields(layout)})


def open_dots(work: Work, dots: str) -> tuple[Document[DotsBody], Footage]:
    """A layout of dots and the clip in which they were picked."""
    with work.store.unit() as unit:
        found = document_for(work, unit, dots, DotsBody)
        source = source_within(unit, found.production, found.body.footage, "footage")
    return found, load_footage(work, source)


def pick(work: Work, dots: str, frame: int, x: float, y: float, place: str, mirror: bool) -> Document[DotsBody]:
    """A dot picked in the layout's clip and put on a place, in place of the one that was there; its partner on the other side goes
    with it where it is found and that place is empty. It can be undone.
    """
    checks.one_of("place", place, tuple(MARKS))
    found, clip = open_dots(work, dots)
    layout = found.body.layout
    if not 0 <= frame < clip.frames:
        raise InputError(f"frame {frame} is not in a clip of {clip.frames} frames")
    picture = next(clip.pictures(frame))
    old, new = found.body.plain()["dots"], dots_fields(picked_dot(picture, layout, x, y, place, mirror))["dots"]
    change: list[dict[str, Any]] = [
        {"path": path_of("dots", label), "remove": True} for label in old if label not in new
    ]
    change += [{"path": path_of("dots", label), "value": dot} for label, dot in new.items() if old.get(label) != dot]
    return change_document(work, dots, DotsBody, found.version, f"pick {place}", change)
