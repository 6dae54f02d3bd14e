"""Which stretches of which recordings lie where in a take or a shot."""

from dataclasses import replace
from fractions import Fraction

from dynaface.core.documents.model.shot import PlacementEntry
from dynaface.core.documents.model.take import TakeBody
from dynaface.core.handover.edit_list import EditList, Mark, Media, Piece, exact, laid_apart
from dynaface.core.records.records import Document, Source
from dynaface.services.lineup.recordings import timecode_of
from dynaface.services.shot.shot_sound import heard_parts, sounds_of_shot
from dynaface.services.shot.snapshot import ShotDocuments
from dynaface.services.shot.surroundings import words_of_role
from dynaface.services.take.prepare_take import PreparedTake
from dynaface.services.work import Work

SEEN = ("footage", "markers", "curves")
"""What of a take is cut, the first that it has: what a person would look at comes first."""


def media_of(work: Work, source: Source) -> Media:
    """A source as a recording that clips are cut from."""
    info = source.info
    return Media(source.name, exact(info.get("span") or info.get("seconds") or 0.0), timecode_of(work, source))


def edit_of_take(work: Work, prepared: PreparedTake) -> EditList:
    """One clip, and its sound."""
    channels, sources = prepared.performance.channels, prepared.snapshot.documents.sources
    seconds = channels.frames / channels.rate
    slate = prepared.take.body.slate
    seen = next(sources[kind] for kind in SEEN if kind in sources)
    whole = Piece(slate, Fraction(0), seconds, Fraction(0), media_of(work, seen))
    tracks = laid_apart("picture", "picture", [whole])
    if prepared.snapshot.sound is not None:
        late = exact(prepared.take.body.sound_offset)
        heard = _inside(Piece(slate, Fraction(0), seconds, -late, media_of(work, prepared.snapshot.sound)))
        tracks += laid_apart("sound", "sound", heard)
    return EditList(slate, channels.rate, seconds, tuple(tracks), (), channels.timecode)


def _inside(piece: Piece) -> list[Piece]:
    """Of a piece what its recording has."""
    before = max(-piece.first, Fraction(0))
    stop = min(piece.stop, piece.start + (piece.media.seconds - piece.first) / piece.speed)
    start = piece.start + before / piece.speed
    return [replace(piece, start=start, stop=stop, first=piece.first + before)] if start < stop else []


def edit_of_shot(work: Work, found: ShotDocuments) -> EditList:
    """A track or more a role, the sounds below; words that are spoken as marks."""
    body = found.shot.body
    takes = [c.take for c in found.clips.values() if c.take]
    with work.store.snapshot() as unit:
        wanted = sorted({s for t in takes if (s := _seen(t))})
        seen = {s.id: s for s in unit.sources.many(wanted) if s.production == found.shot.production}
        sounds = sounds_of_shot(unit, found)
    tracks = []
    for key in body.ordered:
        role = body.roles[key]
        pieces = [p for _, e in sorted(role.placements.items()) if not e.mute for p in _pieces(work, found, e, seen)]
        tracks += laid_apart(role.performer, "picture", pieces)
    media = {key: media_of(work, source) for key, source in sounds.items()}
    heard = [Piece(sounds[s].name, p.start, p.start + (p.last - p.first) / p.speed, p.first, media[s], p.speed)
             for s, p in heard_parts(work, found, sounds)]  # fmt: skip
    tracks += laid_apart("sound", "sound", [p for whole in heard for p in _inside(whole)])
    marks = tuple(
        Mark(w.word, exact(max(w.first, 0.0)), exact(w.last - w.first))
        for key in body.ordered
        for w in words_of_role(found, key)
    )
    return EditList(body.name, body.fps, Fraction(body.length), tuple(tracks), marks, body.begins)


def _seen(take: Document[TakeBody]) -> str | None:
    held = take.body.sources.held
    return next((held[kind] for kind in SEEN if kind in held), None)


def _pieces(work: Work, found: ShotDocuments, entry: PlacementEntry, seen: dict[str, Source]) -> list[Piece]:
    """A piece a pass of a clip."""
    clip = found.clips.get(entry.clip)
    source = seen.get(_seen(clip.take) or "") if clip and clip.take else None
    if clip is None or source is None:
        return []
    media, speed = media_of(work, source), entry.placement.speed
    return [Piece(clip.clip.body.name, start, start + (last - first) / speed, first, media, speed)
            for start, first, last in entry.placement.passes]  # fmt: skip
