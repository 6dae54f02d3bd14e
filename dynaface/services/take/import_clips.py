"""The animated shapes of a glTF as takes, one for each clip, with the body that the same animation moves."""

from collections.abc import Mapping
from typing import Any

from dynaface.core import checks
from dynaface.core.errors import said_of
from dynaface.formats.bodies import read_bodies
from dynaface.formats.entries.curve_table import write_table
from dynaface.formats.gltf.bodies import moving_animation, parents_of
from dynaface.formats.gltf.clips import read_clips
from dynaface.formats.gltf.document import is_glb, open_glb
from dynaface.formats.gltf.pack import pack
from dynaface.services.media.uploaded import keep_upload, uploaded
from dynaface.services.take.import_take import import_take
from dynaface.services.work import Work, allow


def import_clips(work: Work, production: str, performer: str, given: Mapping[str, Any], start_frame: int = 0
                 ) -> dict[str, Any]:  # fmt: skip
    """{"takes": [{"id", "slate", "frames", "matched", "unmatched", "joints", "notes"}]}; all clips are read before any is stored. joints: of the body that came
    along, 0 where none did.
    """
    with work.store.unit() as unit:
        allow(unit, production, work.person)
    start = int(checks.within("start frame", start_frame, 0, 10_000_000))
    data = uploaded(work, production, given["media"])
    with said_of(given["name"]):
        binary = data if is_glb(data[:4]) else pack(data)
        clips = read_clips(binary, start)
        document = open_glb(binary)
        moving = moving_animation(document, parents_of(document))
        bodies = [] if moving is None else [b.describe() for b in read_bodies(data, given["name"])]
    out = []
    stem = given["name"].rsplit(".", 1)[0]
    for clip in clips:
        slate = (f"{stem} {clip.name}" if len(clips) > 1 else stem)[:80]
        medium = keep_upload(work, production, write_table(clip.channels))
        files: list[dict[str, Any]] = [{"media": medium, "name": f"{slate}.csv"}]
        along = bodies if clip.animation == moving else []
        notes = list(clip.notes)
        if along:
            files.append({"media": given["media"], "name": given["name"], "part": "body"})
        if len(along) > 1:
            notes.append(f"{len(along)} skeletons move: the first, {along[0]['name']}, is the body")
        take = import_take(work, production, slate, performer, files)
        out.append({"id": take.id, "slate": slate, "frames": clip.channels.frames, "matched": len(clip.matched),
                    "unmatched": list(clip.unmatched), "joints": along[0]["joints"] if along else 0, "notes": notes})  # fmt: skip
    return {"takes": out}
