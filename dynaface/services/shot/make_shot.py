"""Making shots: of takes in a row, with their roles and clips; layers; the reel."""

import re
from collections.abc import Mapping, Sequence
from fractions import Fraction
from typing import Any
from uuid import uuid4

from dynaface.core.clock.rates import format_rate, parse_rate
from dynaface.core.documents.model.character import CharacterBody
from dynaface.core.documents.model.layer import LayerBody
from dynaface.core.documents.model.record import parse
from dynaface.core.documents.model.shot import ClipBody, ShotBody
from dynaface.core.documents.model.take import TakeBody
from dynaface.core.errors import InputError
from dynaface.core.records.records import Document
from dynaface.services.edit_document import change_document
from dynaface.services.shot.clips import clip_row
from dynaface.services.shot.snapshot import no_character, role_of
from dynaface.services.take.prepare_take import PreparedTake, prepare_take
from dynaface.services.work import Work, add_document, allow, document_for
from dynaface.store.unit import Unit

EMPTY = Fraction(5)  # seconds of a shot without clips
MAX_TAKES = 100
RATE = "24"  # of a shot that is begun without a take


def make_shot(
    work: Work, production: str, name: str, rate: str = "", takes: Sequence[str] = (), key: str = ""
) -> Document[ShotBody]:
    """A shot of takes one after the other, each performer a role. rate: "" for that of the first take; key: where there is a shot with
    this key already, that one. Raises InputError for a take without curves.
    """
    if key:
        with work.store.unit() as unit:
            allow(unit, production, work.person)
            if there := unit.documents.by_key(production, ShotBody, key):
                return there
    if len(takes) > MAX_TAKES:
        raise InputError(f"{len(takes)} takes at once", hint=f"At most {MAX_TAKES}")
    prepared = [prepare_take(work, take) for take in takes]
    if any(p.take.production != production for p in prepared):
        raise InputError("a take belongs to another production")
    fps = parse_rate(rate) if rate else prepared[0].raw.rate if prepared else parse_rate(RATE)
    roles: dict[str, Any] = {}
    at = Fraction(0)
    with work.store.unit() as unit:
        allow(unit, production, work.person)
        for take in prepared:
            character = take.snapshot.documents.character
            role = new_role(roles, take.take.body.performer, character.id if character else None)
            clip = cut_clip(unit, take)
            roles[role]["placements"][uuid4().hex[:12]] = placed(clip, at, take)
            at += Fraction(clip.body.last) - Fraction(clip.body.first)
        body = {"name": name, "rate": format_rate(fps), "length": str(at or EMPTY), "roles": roles}
        return add_document(unit, production, parse(ShotBody, body, "the shot"), key)


def new_role(roles: dict[str, Any], performer: str, character: str | None) -> str:
    """The key of the performer's role, which is begun where there was none; roles stand beside each other."""
    for key, role in roles.items():
        if role["performer"] == performer:
            return key
    key = uuid4().hex[:12]
    roles[key] = {"character": character, "performer": performer, "rank": float(len(roles)),
                  "at": [0.7 * len(roles), 0.0, 0.0], "placements": {}}  # fmt: skip
    return key


def cut_clip(unit: Unit, take: PreparedTake, first: Fraction = Fraction(0), last: Fraction | None = None, name: str = ""
             ) -> Document[ClipBody]:  # fmt: skip
    """A clip of the reel; without a name it is named character_slate_number, by the performer where no character was chosen."""
    end = Fraction(take.raw.frames) / take.raw.rate
    stop = end if last is None else last
    if not 0 <= first < stop <= end:
        raise InputError(f"the clip goes from {float(first):g} to {float(stop):g} s; the take has {float(end):g} s")
    clips = unit.documents.of_kind(take.take.production, ClipBody)
    slate = take.take.body.slate
    if not name:
        number = 1 + sum(c.body.take == take.take.id for c in clips)
        character = take.snapshot.documents.character if take.take.body.character else None
        who = character.body.name if character else take.take.body.performer
        words = [re.sub(r"[\W_]+", "-", w).strip("-") for w in (who, slate)]
        name = "_".join([*(w for w in words if w), f"{number:02d}"])[:80]
    body = {"name": name, "take": take.take.id, "first": str(first), "last": str(stop)}
    return add_document(unit, take.take.production, parse(ClipBody, body, "the clip"))


def placed(clip: Document[ClipBody], start: Fraction, take: PreparedTake) -> dict[str, Any]:
    """A placement of a whole clip, with the body of its take where there is one, as plain data."""
    shows = "both" if take.snapshot.body is not None else "face"
    return {"clip": clip.id, "start": str(start), "first": clip.body.first, "last": clip.body.last, "shows": shows,
            "seen": take.graph.tidied.key}  # fmt: skip


def add_to_reel(work: Work, take: str, first: str = "", last: str = "", name: str = "") -> Document[ClipBody]:
    """A stretch of a take as a clip of the reel, the whole take where no ends are given."""
    prepared = prepare_take(work, take)
    with work.store.unit() as unit:
        return cut_clip(unit, prepared, Fraction(first or 0), Fraction(last) if last else None, name)


def list_reel(work: Work, production: str) -> list[dict[str, Any]]:
    """All clips by name, with what they are of and where they are used; nothing unused is lost."""
    with work.store.snapshot() as unit:
        allow(unit, production, work.person)
        clips = [c for c in unit.documents.of_kind(production, ClipBody) if not c.body.archived]
        shots = [s for s in unit.documents.of_kind(production, ShotBody) if not s.body.archived]
        takes = {t.id: t.body for t in unit.documents.of_kind(production, TakeBody)}
    used: dict[str, list[str]] = {}
    for shot in shots:
        for clip in {p.clip for role in shot.body.roles.values() for p in role.placements.values()}:
            used.setdefault(clip, []).append(shot.body.name)
    return [
        clip_row(c, takes.get(c.body.take), float(Fraction(c.body.last) - Fraction(c.body.first)), used.get(c.id, []))
        for c in sorted(clips, key=lambda c: (c.body.name, c.created, c.id))
    ]


def list_shots(work: Work, production: str) -> list[dict[str, Any]]:
    """All shots, oldest first."""
    with work.store.snapshot() as unit:
        allow(unit, production, work.person)
        shots = unit.documents.of_kind(production, ShotBody)
        names = {c.id: c.body.name for c in unit.documents.of_kind(production, CharacterBody)}
    return [
        {
            "id": s.id,
            "version": s.version,
            "name": s.body.name,
            "archived": s.body.archived,
            "rate": s.body.rate,
            "seconds": float(Fraction(s.body.length)),
            "roles": [names.get(s.body.roles[k].character or "", s.body.roles[k].performer) for k in s.body.ordered],
        }
        for s in shots
    ]


def add_layer(
    work: Work,
    shot: str,
    role: str,
    name: str,
    does: str,
    regions: Sequence[str],
    touchup: bool = False,
    spans: Mapping[str, Any] = {},
    key: str = "",
) -> Document[LayerBody]:
    """A new layer on top of the role's others; touchup: on the rig of its character; spans: that it holds; key: where there is a layer with this key already,
    that one. It is made put away and brought out by a change, so
    that undo takes it away. Raises InputError for a touch-up layer on a role without a character.
    """
    with work.store.unit() as unit:
        found = document_for(work, unit, shot, ShotBody, lock=True)
        own_role = role_of(found, role)
        character = own_role.character if touchup else None
        if touchup and character is None:
            raise no_character()
        own = [n.body.rank for n in unit.documents.of_kind(found.production, LayerBody, shot=shot)]
        body = {"shot": shot, "role": role, "name": name, "rank": max(own, default=0.0) + 1, "does": does,
                "regions": dict.fromkeys(regions, True), "character": character, "archived": True, "spans": dict(spans)}  # fmt: skip
        made = add_document(unit, found.production, parse(LayerBody, body, "the layer"), key)
    change = {"path": "archived", "value": False}
    return change_document(work, made.id, LayerBody, made.version, f"new layer {name}"[:120], [change])
