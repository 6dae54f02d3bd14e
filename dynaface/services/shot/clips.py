"""Clips of the reel with what they stand on."""

from collections.abc import Sequence
from dataclasses import dataclass
from typing import Any, cast

from dynaface.core.documents.model.record import Body
from dynaface.core.documents.model.shot import ClipBody
from dynaface.core.documents.model.take import TakeBody
from dynaface.core.records.records import Document, Source
from dynaface.store.unit import Unit


@dataclass(frozen=True)
class ClipFound:
    """A clip with its take, and the curves that it stands on: those that it is held to, or those that its take has chosen."""

    clip: Document[ClipBody]
    take: Document[TakeBody] | None
    curves: Source | None


def clips_found(unit: Unit, production: str, wanted: Sequence[str]) -> dict[str, ClipFound]:
    """Clips of a production by id, with what they stand on; what is not there any more is None."""
    clips = cast("list[Document[ClipBody]]", _of(unit, production, wanted, ClipBody))
    takes = cast("list[Document[TakeBody]]", _of(unit, production, sorted({c.body.take for c in clips}), TakeBody))
    own = {t.id: t for t in takes}
    curves = {
        c.id: c.body.frozen or (own[c.body.take].body.sources.curves if c.body.take in own else None) for c in clips
    }
    named = unit.sources.many(sorted({s for s in curves.values() if s}))
    sources = {s.id: s for s in named if s.production == production and s.kind == "curves"}
    return {
        c.id: ClipFound(c, own.get(c.body.take), sources.get(curves[c.id] or "") if c.body.take in own else None)
        for c in clips
    }


def _of(unit: Unit, production: str, wanted: Sequence[str], kind: type[Body]) -> list[Document[Body]]:
    """Those of these documents that are of the kind and of the production."""
    return [d for d in unit.documents.many(wanted) if d.production == production and isinstance(d.body, kind)]


def clip_row(
    clip: Document[ClipBody], take: TakeBody | None, seconds: float, used: Sequence[str] = ()
) -> dict[str, Any]:
    """A clip as it is listed; used: names of the shots that it lies in."""
    body = clip.body
    return {
        "id": clip.id,
        "version": clip.version,
        "name": body.name,
        "take": body.take,
        "slate": take.slate if take else "",
        "performer": take.performer if take else "",
        "first": body.first,
        "last": body.last,
        "frozen": body.frozen is not None,
        "sound": take.sources.sound if take else None,
        "body": take is not None and "body" in take.sources.held,
        "soundOffset": take.sound_offset if take else 0.0,
        "seconds": seconds,
        "used": list(used),
    }
