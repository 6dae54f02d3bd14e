"""A recording of a feed as takes: each performer's packets as the source; where a profile was at work, what it made of them on top."""

import re
from collections.abc import Mapping
from pathlib import Path
from typing import Any

import numpy as np

from dynaface.core.documents.model.take import TakeBody
from dynaface.core.errors import DynafaceError, InputError
from dynaface.core.records.records import Document
from dynaface.core.sound.sound import Sound
from dynaface.formats.entries import wav
from dynaface.formats.table.cells import read_cells
from dynaface.services.edit_document import change_document
from dynaface.services.media.uploaded import keep_upload
from dynaface.services.take.import_take import attach_source, import_take
from dynaface.services.work import Work, allow

SOUND = "sound.pcm"  # of a microphone: 16 bit, one channel
LIVE = "live_"  # before the name of a channel as it was shown
RAW = "values"  # what the signals of a line lie in
TIMES = {"time_column": "seconds", "time_unit": "seconds", "timecode_column": "timecode"}


def next_number(work: Work, production: str, slate: str) -> int:
    """The number of the next recording under a slate: one more than the highest that takes of it have."""
    numbered = re.compile(rf"^{re.escape(slate)}_(\d{{1,6}})(?: |$)")
    with work.store.snapshot() as unit:
        allow(unit, production, work.person)
        takes = unit.documents.of_kind(production, TakeBody)
    found = [numbered.match(t.body.slate) for t in takes]
    return 1 + max((int(m[1]) for m in found if m), default=0)


def keep_recording(work: Work, folder: Path, about: Mapping[str, Any]) -> list[Document[TakeBody]]:
    """Takes of the performers in a recording's folder, one each; those of which nothing can be read are left out. about: production,
    slate and tracks as the recorder noted them. Raises InputError where none can be read.
    """
    number = next_number(work, about["production"], about["slate"])
    sound = _sound(folder, about)
    made, wrong = [], []
    for track in about["tracks"]:
        data = (folder / track["file"]).read_bytes()
        alone = len(about["tracks"]) == 1 or not track["performer"]
        name = f"{about['slate']}_{number:02d}" + ("" if alone else f" {track['performer']}")
        try:
            take = _keep_track(work, about["production"], name[:80], track, data)
            made.append(_with_sound(work, take, sound, about, track) if sound is not None else take)
        except DynafaceError as error:
            wrong.append(f"{track['performer'] or track['sender']}: {error}")
    if not made:
        raise InputError("; ".join(wrong) or "no packet came while it was recorded", hint="Is the sender sending?")
    return made


def _keep_track(work: Work, production: str, name: str, track: Mapping[str, Any], data: bytes) -> Document[TakeBody]:
    header = read_cells(data).header
    media = keep_upload(work, production, data)
    raw = {"media": media, "name": f"{name} packets.jsonl", "recipe": {**TIMES, **_raw_recipe(header, track["recipe"])}}
    columns = {h: h.removeprefix(LIVE) if h.startswith(LIVE) else "" for h in header}
    live = {"media": media, "name": f"{name} live.jsonl", "recipe": {**TIMES, "columns": columns, "percent": False,
                                                                    "radians": False, "flipped": []}}  # fmt: skip
    take = import_take(work, production, name, track["performer"], [raw])
    if track["shaped"]:
        take = attach_source(work, take.id, live)
    return take


def _sound(folder: Path, about: Mapping[str, Any]) -> bytes | None:
    """The WAV of what the microphone heard, None where there is nothing of it."""
    file = folder / SOUND
    data = file.read_bytes() if "sound" in about and file.exists() else b""
    if len(data) < 2:
        return None
    samples = np.frombuffer(data[: len(data) // 2 * 2], "<i2").astype(np.float32) / np.float32(32768)
    return wav.write(Sound(samples[:, None], int(about["sound"]["rate"])))


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
