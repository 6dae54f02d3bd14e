"""aims.json: what eyes can look at and when they do, for the command line (docs/formats.md)."""

from collections.abc import Mapping
from typing import Annotated

import numpy as np
from pydantic import Field

from dynaface.core import checks
from dynaface.core.documents.model.record import Frame, Key, Part, parse
from dynaface.core.head.eyes import PERSON, Eyes
from dynaface.core.layers.around import Aim
from dynaface.core.layers.gaze import RESERVED
from dynaface.formats.json_file import read_json

Metres = Annotated[float, Field(ge=-1e4, le=1e4)]
Look = Annotated[tuple[Frame, Key], Field(strict=False)]


class FileAim(Part):
    """at: metres from between the eyes of the head at rest: to its left, up, to the front; on_head: goes along with the head."""

    at: Annotated[tuple[Metres, Metres, Metres], Field(strict=False)]
    on_head: bool = False


class AimsFile(Part):
    """aims by name, and looks: (frame, aim)."""

    aims: dict[Key, FileAim] = Field(default={}, max_length=200)
    looks: list[Look] = Field(default=[], max_length=2000)


def read_aims_file(data: bytes, name: str) -> AimsFile:
    """The aims in the bytes; raises InputError with the place that is wrong, or for a look at no aim."""
    found = parse(AimsFile, read_json(data, name), name)
    for _, aim in found.looks:
        checks.one_of("looks", aim, [*found.aims, *RESERVED])
    return found


def eyes_at_origin() -> Eyes:
    """A person's eyes with the middle between them at 0."""
    left, right, pivot = (tuple(np.subtract(p, PERSON.middle)) for p in (PERSON.left, PERSON.right, PERSON.pivot))
    return Eyes(left, right, pivot)


def aims_at_origin(aims: Mapping[str, FileAim]) -> dict[str, Aim]:
    """Aims as makers take them, for eyes at 0."""
    return {key: Aim(np.asarray(a.at), a.on_head) for key, a in aims.items()}
