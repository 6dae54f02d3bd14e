"""Cutting a shot: splitting and joining clips, and taking time in or out with everything behind moving along."""

from collections.abc import Callable, Mapping
from dataclasses import dataclass
from fractions import Fraction
from typing import Any
from uuid import uuid4

from dynaface.core import checks
from dynaface.core.documents.changes import path_of
from dynaface.core.documents.model.shot import PlacementEntry, ShotBody
from dynaface.core.errors import InputError, NotFoundError
from dynaface.core.records.records import Document
from dynaface.core.shot.placement import Placement
from dynaface.services.edit_document import change_document
from dynaface.services.work import Work, document_for

Changes = list[dict[str, Any]]


@dataclass(frozen=True)
class Cut:
    """do: one of CUTS; role, placement: which clip, role "" for all lanes; at: seconds of the shot; seconds: how much time."""

    do: str
    role: str = ""
    placement: str = ""
    at: Fraction = Fraction(0)
    seconds: Fraction = Fraction(0)


def cut_shot(work: Work, shot: str, version: int, label: str, cut: Cut) -> Document[ShotBody]:
    """Makes a cut; it can be undone. Raises InputError where it cannot be made."""
    checks.one_of("do", cut.do, CUTS)
    with work.store.unit() as unit:
        body = document_for(work, unit, shot, ShotBody).body
    return change_document(work, shot, ShotBody, version, label, CUTS[cut.do](body, cut))


def _entry(body: ShotBody, cut: Cut) -> PlacementEntry:
    role = body.roles.get(cut.role)
    if role is None or cut.placement not in role.placements:
        raise NotFoundError("there is no such clip in this shot")
    return role.placements[cut.placement]


def _path(cut: Cut, placement: str, *more: str) -> str:
    return path_of("roles", cut.role, "placements", placement, *more)


def _fields(placed: Placement) -> dict[str, str]:
    return {"start": str(placed.start), "first": str(placed.first), "last": str(placed.last), "repeats": str(placed.repeats),
            "fadeIn": str(placed.fade_in), "fadeOut": str(placed.fade_out)}  # fmt: skip


def _split(body: ShotBody, cut: Cut) -> Changes:
    entry = _entry(body, cut)
    first, second = entry.placement.split(cut.at)
    out: Changes = [{"path": _path(cut, cut.placement, k), "value": v} for k, v in _fields(first).items()]
    # A body that is repeated went on with each pass, and so does what comes after the cut.
    follows = entry.follows or entry.placement.repeats > 1
    return [*out, {"path": _path(cut, uuid4().hex[:12]), "value": {**entry.plain(), **_fields(second), "follows": follows}}]  # fmt: skip


def _join(body: ShotBody, cut: Cut) -> Changes:
    """The clip and the one that goes on where it ends, in the shot and in its source, become one."""
    entry = _entry(body, cut)
    one = entry.placement
    for name, other in body.roles[cut.role].placements.items():
        two = other.placement
        follows = (other.clip, other.shows, other.lane, two.speed, two.start) == (
            entry.clip,
            entry.shows,
            entry.lane,
            one.speed,
            one.stop,
        )
        if name == cut.placement or not follows:
            continue
        if one.repeats == two.repeats == 1 and two.first == one.last:
            more = {"last": str(two.last)}
        elif (one.first, one.last) == (two.first, two.last):
            more = {"repeats": str(one.repeats + two.repeats)}
        else:
            continue
        more["fadeOut"] = str(two.fade_out)
        return [
            *({"path": _path(cut, cut.placement, k), "value": v} for k, v in more.items()),
            {"path": _path(cut, name), "remove": True},
        ]
    raise InputError(
        "nothing goes on where this clip ends", hint="Only parts of one clip that follow each other are joined"
    )


def _moved(body: ShotBody, cut: Cut, by: Fraction, left_out: str = "") -> Changes:
    """Everything of the role, or of all, that begins at `cut.at` or later, moved by seconds."""
    out: Changes = []
    for key, role in body.roles.items():
        if cut.role and key != cut.role:
            continue
        for name, entry in role.placements.items():
            if Fraction(entry.start) >= cut.at and name != left_out:
                path = path_of("roles", key, "placements", name, "start")
                out.append({"path": path, "value": str(Fraction(entry.start) + by)})
    if not cut.role:
        for name, sound in body.sounds.items():
            if Fraction(sound.start) >= cut.at:
                out.append({"path": path_of("sounds", name, "start"), "value": str(Fraction(sound.start) + by)})
    return out


def _make_room(body: ShotBody, cut: Cut) -> Changes:
    if not cut.seconds:
        raise InputError("no time is put in")
    return [*_moved(body, cut, cut.seconds), {"path": "length", "value": str(Fraction(body.length) + cut.seconds)}]


def _take_out(body: ShotBody, cut: Cut) -> Changes:
    """The clip goes, and what follows it on its role closes up by its length."""
    placed = _entry(body, cut).placement
    behind = Cut(cut.do, cut.role, cut.placement, placed.stop)
    return [{"path": _path(cut, cut.placement), "remove": True},
            *_moved(body, behind, -placed.seconds, cut.placement)]  # fmt: skip


CUTS: Mapping[str, Callable[[ShotBody, Cut], Changes]] = {
    "split": _split,
    "join": _join,
    "make room": _make_room,
    "take out": _take_out,
}
