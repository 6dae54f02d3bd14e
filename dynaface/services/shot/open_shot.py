"""Opening a shot: everything that belongs to it."""

from dataclasses import dataclass
from typing import Any

from dynaface.core.documents.model.cast import CastBody
from dynaface.core.documents.model.character import CharacterBody
from dynaface.core.documents.model.layer import LayerBody
from dynaface.core.documents.model.profiles import ProfilesBody
from dynaface.core.documents.model.shot import ShotBody
from dynaface.core.documents.model.words import WordsBody
from dynaface.core.records.records import Document
from dynaface.services.shot.clips import ClipFound, clip_row
from dynaface.services.shot.snapshot import read_shot
from dynaface.services.take.snapshot import cast_key
from dynaface.services.work import Work


@dataclass(frozen=True)
class OpenedShot:
    """A shot with its layers, its clips, the characters of its roles and touch-up layers, stored cast sheets, the words of its sounds,
    and the production's blink profiles, where it has copies.
    """

    shot: Document[ShotBody]
    layers: list[Document[LayerBody]]
    clips: list[dict[str, Any]]
    characters: list[Document[CharacterBody]]
    casts: list[Document[CastBody]]
    words: list[Document[WordsBody]]
    profiles: Document[ProfilesBody] | None


def open_shot(work: Work, shot: str) -> OpenedShot:
    """Reads a shot; nothing is written."""
    with work.store.snapshot() as unit:
        found = read_shot(work, unit, shot)
        roles = found.shot.body.roles.values()
        wanted = {r.character for r in roles if r.character} | {n.body.character for n in found.layers}
        characters = [c for c in unit.documents.of_kind(found.shot.production, CharacterBody) if c.id in wanted]
        casts = [
            sheet
            for r in roles
            if r.character
            and (sheet := unit.documents.by_key(found.shot.production, CastBody, cast_key(r.performer, r.character)))
        ]
    clips = [_clip(c) for c in found.clips.values()]
    return OpenedShot(
        found.shot, list(found.layers), clips, characters, casts, list(found.words.values()), found.profiles
    )


def _clip(found: ClipFound) -> dict[str, Any]:
    """A clip with the seconds that its take has."""
    seconds = float(found.curves.info.get("span") or 0) if found.curves else 0.0
    return clip_row(found.clip, found.take.body if found.take else None, seconds)
