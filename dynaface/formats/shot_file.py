"""shot.json and layer.json: a role of a shot on files, for the command line (docs/formats.md)."""

from typing import Annotated

from pydantic import Field

from dynaface.core.clock.rates import parse_rate
from dynaface.core.curves.channels import Channels
from dynaface.core.documents.model.layer import LayerFields, counting
from dynaface.core.documents.model.record import Key, Part, parse
from dynaface.core.documents.model.shot import PlacementFields, Seconds, frames_in
from dynaface.core.documents.model.weight import PlainWeight, check_captured
from dynaface.core.errors import InputError
from dynaface.core.layers.layer import apply_layer, weaken_capture
from dynaface.core.shot.lane import lay
from dynaface.formats.json_file import read_json

MAX_CLIPS, MAX_LAYERS = 2000, 100


class FileClip(PlacementFields):
    """A placement of a curve table. file: its name beside shot.json; last: "" for its end."""

    file: Annotated[str, Field(min_length=1, max_length=200)]


class ShotFile(Part):
    """A shot of one role: clips, how much of the capture counts by part, and layers bottom up."""

    rate: str = Field(max_length=20)
    length: Seconds
    clips: list[FileClip] = Field(max_length=MAX_CLIPS)
    capture: dict[Key, PlainWeight] = Field(default={})
    layers: list[LayerFields] = Field(default=[], max_length=MAX_LAYERS)

    @property
    def frames(self) -> int:
        """Frames of the shot, a part of one counted as a frame."""
        return frames_in(self.length, parse_rate(self.rate))


def read_shot_file(data: bytes, name: str) -> ShotFile:
    """The shot in the bytes; raises InputError with the place that is wrong."""
    found = parse(ShotFile, read_json(data, name), name)
    check_captured(found.capture)
    for layer in found.layers:
        layer.check_face()
    _ = found.frames
    return found


def play_shot_file(shot: ShotFile, tables: dict[str, Channels]) -> Channels:
    """The curves of the shot; tables: by the names that its clips have. Raises InputError for a clip without a table."""
    for clip in shot.clips:
        if clip.file not in tables:
            raise InputError(f"there is no table {clip.file!r}", where="clips")
    placed = [(c.placement, tables[c.file]) for c in shot.clips]
    out = lay(placed, parse_rate(shot.rate), shot.frames)
    out = weaken_capture(out, {r: w.weight for r, w in shot.capture.items()})
    for layer in counting(shot.layers):
        out = apply_layer(out, layer.layer)
    return out
