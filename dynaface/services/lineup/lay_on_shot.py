"""Clips of a shot moved to where a line-up says that their takes were played."""

from fractions import Fraction
from typing import Any

from dynaface.core.documents.changes import path_of
from dynaface.core.documents.model.lineup import LineUpBody
from dynaface.core.documents.model.shot import PlacementEntry, ShotBody
from dynaface.core.errors import InputError
from dynaface.core.records.records import Document
from dynaface.core.sync.moment import on_grid, starts_by_timecode
from dynaface.services.edit_document import change_document
from dynaface.services.lineup.open_lineup import read_lineup
from dynaface.services.shot.clips import clips_found
from dynaface.services.work import Work, document_for

Placed = tuple[str, str, PlacementEntry, Fraction]
"""Role, id of the placement, the placement, and when its take's face begins in the line-up."""


def lay_on_shot(work: Work, lineup: str, shot: str, version: int) -> Document[ShotBody]:
    """The shot with every clip whose take's face the line-up places where it was played, in one step: by the counts of both where there are
    two, else the earliest such clip stays and the others lie as they were played against it. Raises InputError where there is no such clip,
    or where one would begin before the shot.
    """
    with work.store.snapshot() as unit:
        found, _ = read_lineup(work, unit, lineup)
        held = document_for(work, unit, shot, ShotBody)
        if held.production != found.production:
            raise InputError("the shot belongs to another production than the line-up")
        clips = {p.clip for role in held.body.roles.values() for p in role.placements.values()}
        takes = {i: c.clip.body.take for i, c in clips_found(unit, held.production, sorted(clips)).items()}
    placed = _placed(found.body, held.body, takes)
    if not placed:
        raise InputError("no clip of this shot is of a take that the line-up places", hint="Line its takes up first")
    zero = _beginning(found.body, held.body, placed)
    changes: list[dict[str, Any]] = []
    before = length = Fraction(held.body.length)
    for role, key, entry, face in placed:
        start = on_grid(face + entry.placement.first - zero, held.body.fps)
        if start < 0:
            raise InputError(
                f"a clip of {held.body.roles[role].performer} was played {float(-start):.2f} s before the shot begins",
                hint="Let the shot begin earlier, or make room in it",
            )
        length = max(length, start + entry.placement.stop - entry.placement.start)
        if start != entry.placement.start:
            changes.append({"path": path_of("roles", role, "placements", key, "start"), "value": str(start)})
    if length > before:
        changes.append({"path": "length", "value": str(length)})
    if not changes:
        return held
    return change_document(work, shot, ShotBody, version, f"lay on {found.body.name}"[:120], changes)


def _placed(lineup: LineUpBody, shot: ShotBody, takes: dict[str, str]) -> list[Placed]:
    faces = {e.take: e.at for e in lineup.sources.values() if e.part == "face" and e.at is not None}
    every = [(r, k, p) for r, role in shot.roles.items() for k, p in role.placements.items()]
    return [(r, k, p, faces[takes[p.clip]]) for r, k, p in every if takes.get(p.clip) in faces]


def _beginning(lineup: LineUpBody, shot: ShotBody, placed: list[Placed]) -> Fraction:
    """Seconds after the beginning of the line-up at which the shot begins."""
    if lineup.begins and shot.begins:
        starts, _ = starts_by_timecode({"lineup": lineup.begins, "shot": shot.begins})
        begins = starts["shot"] - starts["lineup"]
        # The earliest clip lies on a frame of the shot, as in one that is begun from a line-up: its frames stay those of its take.
        earliest = min(face + p.placement.first for _, _, p, face in placed) - begins
        return begins + earliest % (1 / shot.fps)
    _, _, first, face = min(placed, key=lambda p: (p[2].placement.start, p[1]))
    return face + first.placement.first - first.placement.start
