"""The sound of a shot: that of its clips and its own sounds, mixed."""

from dataclasses import replace
from fractions import Fraction

import numpy as np

from dynaface.core.documents.changes import path_of
from dynaface.core.documents.model.shot import PlacementEntry, ShotBody, SoundEntry
from dynaface.core.errors import InputError
from dynaface.core.identity import content_key
from dynaface.core.records.records import Document, Source
from dynaface.core.sound.mix import Part, mix
from dynaface.core.sound.sound import Sound, peaks
from dynaface.formats.entries import wav
from dynaface.services.edit_document import change_document
from dynaface.services.load_source import load_sound
from dynaface.services.shot.snapshot import ShotDocuments, read_shot
from dynaface.services.take.import_take import PEAKS_A_SECOND
from dynaface.services.work import Work
from dynaface.store.unit import Unit

RATE = 48_000


def shot_sound(work: Work, shot: str, only: str | None = None) -> tuple[str, Sound]:
    """(tag, equal for equal sound; the mix, at least as long as the shot; what ends beyond it is heard to its end). only: a role, to hear
    no other.
    """
    with work.store.snapshot() as unit:
        found = read_shot(work, unit, shot)
        sounds = sounds_of_shot(unit, found)
    heard = heard_parts(work, found, sounds, only)
    length = Fraction(found.shot.body.length)
    key = content_key("mix", RATE, length, [(source, *(getattr(p, f) for f in FIELDS)) for source, p in heard])
    made = work.cache.get_or_make(f"mix {key}", lambda: mix([p for _, p in heard], RATE, length))
    return key, replace(made, timecode=found.shot.body.begins)


def sounds_of_shot(unit: Unit, found: ShotDocuments) -> dict[str, Source]:
    """The sounds that a shot names, by id."""
    wanted = {i for i in _named(found) if i}
    return {s.id: s for s in unit.sources.many(sorted(wanted)) if s.production == found.shot.production}


def heard_parts(
    work: Work, found: ShotDocuments, sounds: dict[str, Source], only: str | None = None
) -> list[tuple[str, Part]]:
    """(source, the stretch of it that is heard) of all that sounds in a shot."""
    body = found.shot.body
    placed = [e for name, role in body.roles.items() if only in (None, name) for e in role.placements.values()]
    own = [s for s in body.sounds.values() if not s.mute and s.source in sounds and only in (None, s.role)]
    return [
        *(p for e in placed for p in _of_clip(work, found, e, sounds)),
        *((s.source, _own(work, s, sounds)) for s in own),
    ]


FIELDS = ("start", "first", "last", "speed", "gain", "fade_in", "fade_out")


def _named(found: ShotDocuments) -> list[str]:
    takes = [c.take.body.sources.sound or "" for c in found.clips.values() if c.take]
    return takes + [s.source for s in found.shot.body.sounds.values()]


def _of_clip(
    work: Work, found: ShotDocuments, entry: PlacementEntry, sounds: dict[str, Source]
) -> list[tuple[str, Part]]:
    """The sound that goes along with a clip: a part a pass. Where the clip goes to the end of its take, the last pass is heard to
    the end of the sound.
    """
    clip = found.clips.get(entry.clip)
    take = clip.take.body if clip and clip.take else None
    source = sounds.get(take.sources.sound or "") if take else None
    if not entry.sound or entry.mute or take is None or source is None or clip is None or clip.curves is None:
        return []
    sound, placed = load_sound(work, source), entry.placement
    late = Fraction(take.sound_offset).limit_denominator(1_000_000)
    out = [Part(sound, start, first - late, last - late, placed.speed) for start, first, last in placed.passes]
    ends = float(clip.curves.info.get("span") or 0)
    if float(out[-1].last + late) >= ends - 0.1:
        end = max(out[-1].last, Fraction(len(sound.samples), sound.rate))
        out[-1] = Part(sound, out[-1].start, out[-1].first, end, placed.speed)
    return [(source.id, part) for part in out]


def _own(work: Work, entry: SoundEntry, sounds: dict[str, Source]) -> Part:
    start, first, last, speed, fade_in, fade_out = (
        Fraction(v) for v in (entry.start, entry.first, entry.last, entry.speed, entry.fade_in, entry.fade_out)
    )
    return Part(load_sound(work, sounds[entry.source]), start, first, last, speed, entry.gain, fade_in, fade_out)


def shot_wav(work: Work, shot: str) -> bytes:
    """The mix as a WAV that begins where the shot does."""
    return wav.write(shot_sound(work, shot)[1])


def shot_peaks(work: Work, shot: str) -> tuple[int, np.ndarray]:
    """(buckets a second, (buckets, 2) lowest and highest sample) of the mix."""
    key, sound = shot_sound(work, shot)
    return PEAKS_A_SECOND, work.cache.get_or_make(f"peaks {key}", lambda: peaks(sound, PEAKS_A_SECOND))


def let_sound_go(work: Work, shot: str, version: int, role: str, placement: str) -> Document[ShotBody]:
    """Makes a clip's sound one of the shot's own, to be moved by itself; raises InputError where it has none."""
    with work.store.snapshot() as unit:
        found = read_shot(work, unit, shot)
        sounds = sounds_of_shot(unit, found)
    own = found.shot.body.roles.get(role)
    entry = own.placements.get(placement) if own else None
    parts = _of_clip(work, found, entry, sounds) if entry else []
    if not parts or entry is None:
        raise InputError("this clip has no sound that goes along")
    name = found.clips[entry.clip].clip.body.name
    changes: list[dict[str, object]] = [
        {"path": path_of("roles", role, "placements", placement, "sound"), "value": False}
    ]
    for number, (source, part) in enumerate(parts):
        exact = {field: str(getattr(part, field)) for field in ("start", "first", "last", "speed")}
        value = {"source": source, "name": name, "role": role, **exact}
        changes.append({"path": path_of("sounds", f"{placement}-{number}"), "value": value})
    return change_document(work, shot, ShotBody, version, f"let the sound of {name} go"[:120], changes)
