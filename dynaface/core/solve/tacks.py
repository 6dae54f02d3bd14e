"""Tacks: what the animator has set by hand at a frame, honoured by every later solve and fading over a span."""

from collections.abc import Iterable, Mapping
from dataclasses import dataclass, replace
from typing import Any

from dynaface.core import checks
from dynaface.core.errors import InputError
from dynaface.core.shapes.standard import SHAPES
from dynaface.core.track.landmarks import POINTS

SPAN = 6  # frames either side over which a tack fades, where nothing is said
MAX_TACKS = 500


@dataclass(frozen=True)
class Tack:
    """At `frame`: a shape's weight (0..1), or a landmark's place ((x, y) pixels); span: frames each way of its fading."""

    frame: int
    span: int
    shape: str = ""
    value: float = 0.0
    point: int = -1
    place: tuple[float, float] = (0.0, 0.0)


def parse_tack(data: Any) -> Tack:
    """From {"frame", "span", "shape", "value"} or {"frame", "span", "point", "x", "y"}; raises InputError."""
    if not isinstance(data, Mapping):
        raise InputError("a tack has a frame and what is set there")
    kinds = ({"frame", "span", "shape", "value"}, {"frame", "span", "point", "x", "y"})
    if set(data) not in kinds:
        raise InputError(f"a tack holds {', '.join(sorted(map(str, data)))}",
                         hint="It must be frame, span, shape, value, or frame, span, point, x, y")  # fmt: skip
    frame, span = int(checks.within("frame", data["frame"], 0, 1e7)), int(checks.within("span", data["span"], 0, 1000))
    if "shape" in data:
        shape = checks.one_of("shape", data["shape"], SHAPES)
        return Tack(frame, span, shape, checks.within("value", data["value"], 0, 1))
    point = int(checks.within("point", data["point"], 0, POINTS - 1))
    return Tack(
        frame,
        span,
        point=point,
        place=(checks.within("x", data["x"], -1e4, 1e4), checks.within("y", data["y"], -1e4, 1e4)),
    )


def tacks_within(tacks: Iterable[Tack], first: int, last: int) -> list[Tack]:
    """The tacks from frame first to last, counted from first."""
    return [replace(p, frame=p.frame - first) for p in tacks if first <= p.frame <= last]
