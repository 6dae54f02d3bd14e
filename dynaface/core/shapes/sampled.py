"""Expression samples as people write them down: which frame shows a shape at its extreme."""

from collections.abc import Mapping
from typing import Any

from dynaface.core import checks
from dynaface.core.errors import InputError
from dynaface.core.shapes.standard import SHAPES


def parse_frames(data: Any) -> dict[str, int]:
    """shape -> frame, from plain data; raises InputError."""
    if not isinstance(data, Mapping):
        raise InputError("samples must be a table of frames by shape")
    for shape, frame in data.items():
        checks.one_of("sampled shape", shape, SHAPES)
        if not isinstance(frame, int) or frame < 0:
            raise InputError(f"the sample of {shape} is at frame {frame!r}; it must be a frame number")
    return dict(data)
