"""A recording of a feed as takes: each performer's packets as the source; where a profile was at work, what it made of them on top."""

import re
from collections.abc import Mapping, Sequence
from pathlib import Path
from typing import Any

import orjson

from dynaface.core.documents.model.take import TakeBody
from dynaface.core.errors import DynafaceError, InputError
from dynaface.core.feed.joint_rows import rows_of
from dynaface.core.feed.packet import JointRow
from dynaface.core.perform.follow_body import hung_as
from dynaface.core.records.records import Document
from dynaface.core.sound.ltc import count_of
from dynaface.core.sound.pcm import from_pcm16
from dynaface.core.sound.sound import Sound
from dynaface.formats.entries import wav
from dynaface.formats.entries.body_lines import head_line
from dynaface.formats.table.cells import read_cells
from dynaface.services.edit_document import change_document
from dynaface.services.feed.live_character import live_character
from dynaface.services.media.uploaded import keep_upload
from dynaface.services.take.import_take import attach_source, import_take
from dynaface.services.take.place_body import place_body
from dynaface.services.work import Work, allow

FACE, BODY = "face", "body"  # parts of a track
SOUND = "sound.pcm"  # of a microphone: 16 bit, one channel
LIVE = "live_"  # before the name of a channel as it was shown
RAW = "values"  # what the signals of a line lie in
Track = Mapping[str, Any]
TIMES = {"time_column": "seconds", "time_unit": "seconds", "timecode_column": "timecode"}


def next_number(work: Work, production: str, slate: str) -> int:
    """The number of the next recording under a slate: one more than the highest that takes of it have."""
    numbered = re.compile(rf"^{re.escape(slate)}_(\d{{1,6}})(?: |$)")
    with work.store.snapshot() as unit:
        allow(unit, production, work.person)
        takes = unit.documents.of_kind(production, TakeBody)
    found = [numbered.match(t.body.slate) for t in takes]
    return 1 + max((int(m[1]) for m in found if m), default=0)


def keep_recording(work: Work, folder: Path, about: Mapping[str, Any]) -> tuple[list[Document[TakeBody]], list[str]]:
    """(takes of the performers in a recording's folder, one each; whom nothing could be kept of, and why). about: production, slate and tracks as
    the recorder noted them. Raises InputError where none can be read.
    """
    number = next_number(work, about["production"], about["slate"])
    sound = _sound(folder, about)
    made, wrong = [], []
    recorded = by_performer(about["tracks"])
    for tracks in recorded:
        first = tracks.get(FACE) or tracks[BODY]
        alone = len(recorded) == 1 or not first["performer"]
        name = (f"{about['slate']}_{number:02d}" + ("" if alone else f" {first['performer']}"))[:80]
        try:
            take, lacks = _keep_tracks(work, about["production"], name, tracks, folder)
            wrong += [f"{first['performer'] or first['sender']}: {lacks}"] if lacks else []
            made.append(_with_sound(work, take, sound, about, first) if sound is not None else take)
        except DynafaceError as error:
            wrong.append(f"{first['performer'] or first['sender']}: {error}")
    if not made:
        raise InputError("; ".join(wrong) or "no packet came while it was recorded", hint="Is the sender sending?")
    return made, wrong


def by_performer(tracks: Sequence[Track]) -> list[dict[str, Track]]:
    """Tracks that make one take each: a face with the body of the same sender, else of another sender of the same performer."""
    taken = [{FACE: t} for t in tracks if t["part"] == FACE]
    for body in (t for t in tracks if t["part"] == BODY):
        free = [one for one in taken if BODY not in one and FACE in one]
        same = next((one for one in free if one[FACE]["sender"] == body["sender"]), None) or next(
            (one for one in free if body["performer"] and one[FACE]["performer"] == body["performer"]), None
        )
        if same is not None:
            same[BODY] = body
        else:
            taken.append({BODY: body})
    return taken


def _keep_tracks(
    work: Work, production: str, name: str, tracks: Mapping[str, Track], folder: Path
) -> tuple[Document[TakeBody], str]:
    """(take, what is lacking of its body or "")."""
    face, body = tracks.get(FACE), tracks.get(BODY)
    part, lacks = _body_part(work, production, name, body, folder) if body else ({}, "")
    if face is None:
        return import_take(work, production, name, tracks[BODY]["performer"], [part]), lacks
    take = _keep_face(work, production, name, face, (folder / face["file"]).read_bytes())
    if part:
        take = attach_source(work, take.id, part)
    if body and body["coded"] != face["coded"]:  # only one of them says when it was: both came when they came
        place_body(work, take.id, body["wall"] - face["wall"], "place the body")
    return take, lacks


def _body_part(work: Work, production: str, name: str, track: Track, folder: Path) -> tuple[dict[str, Any], str]:
    """(the file of a recorded body, with what it hangs on in its first line; what is lacking or "")."""
    data = (folder / track["file"]).read_bytes()
    first = orjson.loads(data.split(b"\n", 1)[0])
    rows, lacks = track["skeleton"], ""
    if not rows:
        names = list(first["joints"])
        rows = _hung_as_character(work, production, track["performer"], names)
        if not rows:  # kept all the same: what was captured must not be lost
            rows = [JointRow(n, names[0] if n != names[0] else "", (0, 0, 0), (0, 0, 0, 1)) for n in names]
            lacks = "what the joints of the body hang on is not known; they are kept as they came"
    media = keep_upload(work, production, head_line(rows, first["timecode"], track["rate"]) + b"\n" + data)
    return {"media": media, "name": f"{name} body.jsonl", "part": "body"}, lacks


def _hung_as_character(work: Work, production: str, performer: str, joints: Sequence[str]) -> tuple[JointRow, ...]:
    """The skeleton that the joints have as the live character's; () where their names say too little."""
    character = live_character(work, production, performer)
    target = character.rig.skeleton if character else None
    skeleton = hung_as(target, joints) if target else None
    return rows_of(skeleton) if skeleton else ()


def _keep_face(work: Work, production: str, name: str, track: Track, data: bytes) -> Document[TakeBody]:
    header = read_cells(data).header
    times = {**TIMES, **({"timecode_rate": track["rate"]} if track["rate"] else {})}
    media = keep_upload(work, production, data)
    raw = {"media": media, "name": f"{name} packets.jsonl", "recipe": {**times, **_raw_recipe(header, track["recipe"])}}
    columns = {h: h.removeprefix(LIVE) if h.startswith(LIVE) else "" for h in header}
    live = {"media": media, "name": f"{name} live.jsonl", "recipe": {**times, "columns": columns, "percent": False,
                                                                    "radians": False, "flipped": []}}  # fmt: skip
    take = import_take(work, production, name, track["performer"], [raw])
    if track["shaped"]:
        take = attach_source(work, take.id, live)
    return take


def _sound(folder: Path, about: Mapping[str, Any]) -> bytes | None:
    """The WAV of what the microphone heard, None where there is nothing of it."""
    file = folder / SOUND
    data = file.read_bytes() if "sound" in about and file.exists() else b""
    channels = int(about["sound"].get("channels", 1)) if data else 1
    samples = from_pcm16(data, channels)
    if not len(samples):
        return None
    sound = Sound(samples, int(about["sound"]["rate"]))
    if channels == 1 and count_of(sound) is not None:
        return None  # it carried timecode and nothing else
    return wav.write(sound)


def _with_sound(
    work: Work, take: Document[TakeBody], sound: bytes, about: Mapping[str, Any], track: Mapping[str, Any]
) -> Document[TakeBody]:
    """The take with the sound, where it was in the air."""
    media = keep_upload(work, take.production, sound)
    attached = attach_source(work, take.id, {"media": media, "name": f"{take.body.slate}.wav"})
    later = round(about["sound"]["began"] - track["wall"], 5)
    change = {"path": "soundOffset", "value": min(max(later, -60.0), 60.0)}
    return change_document(work, take.id, TakeBody, attached.version, "place the sound", [change])


def _raw_recipe(header: tuple[str, ...], recipe: Mapping[str, Any]) -> dict[str, Any]:
    """How the signals were read, with the names that they have in the recorded table."""
    columns = dict.fromkeys(header, "")
    for signal, channel in recipe["columns"].items():
        full = f"{RAW}.{signal}"
        for name in (full, full.rsplit(".", 1)[-1]):
            if name in columns and not name.startswith(LIVE):
                columns[name] = channel
                break
    return {**{k: recipe[k] for k in ("percent", "radians", "flipped")}, "columns": columns}
