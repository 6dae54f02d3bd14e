"""The animated shapes of a glTF as takes: one for each clip."""

from collections.abc import Mapping
from typing import Any

from dynaface.core import checks
from dynaface.core.errors import said_of
from dynaface.formats.entries.curve_table import write_table
from dynaface.formats.gltf.clips import read_clips
from dynaface.formats.gltf.document import is_glb
from dynaface.formats.gltf.pack import pack
from dynaface.services.media.uploaded import keep_upload, uploaded
from dynaface.services.take.import_take import import_take
from dynaface.services.work import Work, allow


def import_clips(work: Work, production: str, performer: str, given: Mapping[str, Any], start_frame: int = 0
                 ) -> dict[str, Any]:  # fmt: skip
    """{"takes": [{"id", "slate", "frames", "matched", "unmatched", "notes"}]}; all clips are read before any is stored."""
    with work.store.unit() as unit:
        allow(unit, production, work.person)
    start = int(checks.within("start frame", start_frame, 0, 10_000_000))
    data = uploaded(work, production, given["media"])
    with said_of(given["name"]):
        clips = read_clips(data if is_glb(data[:4]) else pack(data), start)
    out = []
    stem = given["name"].rsplit(".", 1)[0]
    for clip in clips:
        slate = (f"{stem} {clip.name}" if len(clips) > 1 else stem)[:80]
        medium = keep_upload(work, production, write_table(clip.channels))
        take = import_take(work, production, slate, performer, [{"media": medium, "name": f"{slate}.csv"}])
        out.append({"id": take.id, "slate": slate, "frames": clip.channels.frames, "matched": len(clip.matched),
                    "unmatched": list(clip.unmatched), "notes": list(clip.notes)})  # fmt: skip
    return {"takes": out}
