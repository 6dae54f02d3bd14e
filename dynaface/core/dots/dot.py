"""A colour dot: where it is in a picture, its colour, and the place of the face that it sits on."""

from collections.abc import Mapping
from dataclasses import dataclass, field, replace
from typing import Any

import cv2
import numpy as np
from numpy.typing import NDArray

from dynaface.core import checks
from dynaface.core.errors import InputError
from dynaface.core.markers.chart import MARKS, mirrored_place
from dynaface.core.markers.drive import Drive, parse_drives
from dynaface.core.shapes.sampled import parse_frames

Picture = NDArray[np.uint8]  # (height, width, 3) RGB
Floats = NDArray[np.float32]
DARK = 60.0  # sum of red, green and blue below which a colour says nothing
TOLERANCE = 0.09  # of a share of red, green and blue
REACH, ABOUT, FAINT = 4, 16, 0.06  # pixels about a click, pixels that a dot must stand out from, by how much of a share
MIN_RADIUS, MAX_RADIUS = 1.2, 40.0  # pixels of a dot's radius
MAX_DOTS = 120
FIELDS = ("dynafaceDots", "size", "fov", "tolerance", "dots", "neutral", "samples", "drives", "moves")
MOVES = ("neither", "head")


@dataclass(frozen=True)
class Dot:
    """label; place: of the face chart, "" for none yet; at: (x, y) pixels of its centre in the layout's picture; colour: (r, g, b)
    0..255; radius: pixels.
    """

    label: str
    place: str
    at: tuple[float, float]
    colour: tuple[float, float, float]
    radius: float


@dataclass(frozen=True)
class DotLayout:
    """size: (width, height) of the pictures; fov: vertical degrees; tolerance: of the colours; neutral: first and last frame of a
    still face, samples: shape -> frame of its extreme, both of the clip that the layout was made from; drives: channels that are the
    distance of two dots; moves: "neither" for a camera that is fixed to the head, "head" for one that stands.
    """

    size: tuple[int, int]
    dots: tuple[Dot, ...]
    fov: float = 60.0
    tolerance: float = TOLERANCE
    neutral: tuple[int, int] = (0, 0)
    samples: Mapping[str, int] = field(default_factory=dict)
    drives: Mapping[str, Drive] = field(default_factory=dict)
    moves: str = MOVES[0]

    def describe(self) -> dict[str, Any]:
        """As plain data."""
        dots = {d.label: {"place": d.place, "at": [round(v, 2) for v in d.at], "colour": [round(c) for c in d.colour],
                          "radius": round(d.radius, 2)} for d in self.dots}  # fmt: skip
        return {"dynafaceDots": 1, "size": list(self.size), "fov": self.fov, "tolerance": self.tolerance, "dots": dots,
                "neutral": list(self.neutral), "samples": dict(self.samples),
                "drives": {c: d.describe() for c, d in self.drives.items()}, "moves": self.moves}  # fmt: skip


def parse_dots(data: Mapping[str, Any]) -> DotLayout:
    """A layout of dots from plain data; raises InputError."""
    checks.table("a layout of dots", data)
    for key in data:
        checks.one_of("field of the dots", key, FIELDS)
    if data.get("dynafaceDots") != 1:
        raise InputError(f"these dots are of version {data.get('dynafaceDots')!r}; we read version 1")
    width, height = (round(checks.within("size", v, 16, 8192)) for v in _pair("size", data.get("size")))
    first, last = (round(checks.within("neutral", v, 0, 1e7)) for v in _pair("neutral", data.get("neutral", [0, 0])))
    if last < first:
        raise InputError(f"neutral is {first}..{last}; the first frame must not come after the last")
    given = data.get("dots")
    if not isinstance(given, Mapping) or len(given) > MAX_DOTS:
        raise InputError(f"dots must be a table of at most {MAX_DOTS} dots by label")
    dots = tuple(_dot(str(label), body, (width, height)) for label, body in given.items())
    places = [d.place for d in dots if d.place]
    if len(set(places)) != len(places):
        raise InputError("two dots sit on one place", hint="Leave one of them out")
    samples = parse_frames(data.get("samples", {}))
    fov = checks.within("fov", data.get("fov", 60.0), 5, 150)
    return DotLayout((width, height), dots, fov, checks.within("tolerance", data.get("tolerance", TOLERANCE), 0.01, 0.5),
                     (first, last), samples, parse_drives(data.get("drives", {})),
                     checks.one_of("moves", data.get("moves", MOVES[0]), MOVES))  # fmt: skip


def _pair(name: str, given: Any) -> list[Any]:
    if not isinstance(given, list | tuple) or len(given) != 2:
        raise InputError(f"{name} is {given!r}; it must be two numbers")
    return list(given)


def _dot(label: str, body: Any, size: tuple[int, int]) -> Dot:
    if not isinstance(body, Mapping) or not 0 < len(label) <= 80:
        raise InputError(f"the dot {label!r} must have a place, at, colour and radius")
    place = body.get("place", "")
    if place:
        checks.one_of(f"place of {label!r}", place, tuple(MARKS))
    x, y = (
        checks.within(f"at of {label}", v, 0, most) for v, most in zip(_pair("at", body.get("at")), size, strict=True)
    )
    colour = body.get("colour")
    if not isinstance(colour, list | tuple) or len(colour) != 3:
        raise InputError(f"the colour of {label} is {colour!r}; it must be red, green and blue")
    r, g, b = (checks.within(f"colour of {label}", c, 0, 255) for c in colour)
    return Dot(
        label,
        place,
        (x, y),
        (r, g, b),
        checks.within(f"radius of {label}", body.get("radius", 4.0), MIN_RADIUS, MAX_RADIUS),
    )


def likeness(picture: Picture, colour: NDArray[np.float64], tolerance: float) -> Floats:
    """(height, width) 0..1 how far a picture is of a colour (3,), whatever the light: shares of red, green and blue are compared."""
    seen = picture.astype(np.float32)
    total = seen.sum(axis=-1)
    want = (colour / max(float(colour.sum()), 1.0)).astype(np.float32)
    apart = np.abs(seen / np.maximum(total, 1)[..., None] - want).sum(axis=-1)
    return np.where(total > DARK, np.clip(1 - apart / np.float32(2 * tolerance), 0, 1), 0).astype(np.float32)


def pick_dot(picture: Picture, x: float, y: float, label: str, tolerance: float = TOLERANCE) -> Dot:
    """The dot at a place of the picture: its colour is taken there, its centre and size from what is of that colour about it.
    Raises InputError where nothing stands out.
    """
    height, width = picture.shape[:2]
    if not (0 <= x < width and 0 <= y < height):
        raise InputError(f"({x:.0f}, {y:.0f}) is not in a picture of {width} x {height}")
    row, column = _standing_out(picture, int(y), int(x))
    core = picture[max(row - 1, 0) : row + 2, max(column - 1, 0) : column + 2].reshape(-1, 3)
    colour = np.median(core, axis=0)
    for _ in range(2):
        mask = (likeness(picture, colour, tolerance) > 0.3).astype(np.uint8)
        count, labels, stats, _ = cv2.connectedComponentsWithStats(mask)
        here = labels[row, column]
        if count < 2 or here == 0:
            raise InputError("there is no dot here", hint="Click into the middle of a dot, or widen the tolerance")
        area = int(stats[here, cv2.CC_STAT_AREA])
        inside = labels == here
        colour = picture[inside].astype(np.float64).mean(axis=0)
    radius = float(np.sqrt(area / np.pi))
    if not MIN_RADIUS <= radius <= MAX_RADIUS:
        raise InputError(f"what is of this colour here is {2 * radius:.0f} pixels across, which is no dot",
                         hint="Click into the middle of a dot, or narrow the tolerance")  # fmt: skip
    rows, columns = np.nonzero(inside)
    return Dot(
        label,
        "",
        (float(columns.mean()), float(rows.mean())),
        (float(colour[0]), float(colour[1]), float(colour[2])),
        radius,
    )


def _standing_out(picture: Picture, row: int, column: int) -> tuple[int, int]:
    """The pixel within REACH that differs most in colour from what is about it: nobody clicks a small dot to the pixel."""
    top, left = max(row - ABOUT, 0), max(column - ABOUT, 0)
    part = picture[top : row + ABOUT + 1, left : column + ABOUT + 1].astype(np.float64)
    total = part.sum(axis=2)
    shares = part / np.maximum(total, 1)[..., None]
    apart = np.abs(shares - np.median(shares.reshape(-1, 3), axis=0)).sum(axis=2) * (total > DARK)
    y, x = np.mgrid[top : top + part.shape[0], left : left + part.shape[1]]
    away = np.hypot(y - row, x - column)
    best = int(np.argmax(np.where(away <= REACH, cv2.blur(apart, (3, 3)) - 0.004 * away, -1.0)))
    if apart.flat[best] < FAINT:
        raise InputError("there is no dot here", hint="Click into the middle of a dot")
    return int(y.flat[best]), int(x.flat[best])


def mirrored_dot(picture: Picture, layout: DotLayout, dot: Dot, label: str) -> Dot | None:
    """The dot on the other side of the face, of the same colour, where there is one: the face's middle is that of the dots that
    sit in its middle, else of the picture.
    """
    middle = [d.at[0] for d in layout.dots if d.place and not d.place.endswith((" left", " right"))]
    axis = float(np.mean(middle)) if middle else layout.size[0] / 2
    wanted = np.array([2 * axis - dot.at[0], dot.at[1]])
    best: tuple[float, Dot] | None = None
    for found in blobs(picture, np.array(dot.colour), layout.tolerance, dot.radius):
        away = float(np.linalg.norm(np.array(found) - wanted))
        if (
            away < 0.06 * layout.size[1]
            and np.hypot(*(np.array(found) - dot.at)) > 2 * dot.radius
            and (best is None or away < best[0])
        ):
            best = (away, replace(dot, label=label, place="", at=found))
    return best[1] if best else None


def picked_dot(picture: Picture, layout: DotLayout, x: float, y: float, place: str, mirror: bool) -> DotLayout:
    """The layout with a dot of the picture put on a place, in place of the one that was there; clicked again, a dot moves. mirror: its
    partner on the other side goes with it where it is found and that place is empty.
    """
    dot = replace(pick_dot(picture, x, y, _free(layout.dots), layout.tolerance), place=place)
    kept = tuple(d for d in layout.dots if d.place != place and not _same(d, dot))
    layout = replace(layout, dots=(*kept, dot))
    other = mirrored_place(place)
    if mirror and other != place and other not in [d.place for d in layout.dots]:
        partner = mirrored_dot(picture, layout, dot, _free(layout.dots))
        if partner is not None and not any(_same(d, partner) for d in layout.dots):
            layout = replace(layout, dots=(*layout.dots, replace(partner, place=other)))
    return layout


def _same(one: Dot, other: Dot) -> bool:
    """Whether two picks are of one dot."""
    return float(np.hypot(one.at[0] - other.at[0], one.at[1] - other.at[1])) < max(one.radius, other.radius)


def _free(dots: tuple[Dot, ...]) -> str:
    taken = {d.label for d in dots}
    return next(f"dot {n}" for n in range(1, len(dots) + 2) if f"dot {n}" not in taken)


def blobs(picture: Picture, colour: NDArray[np.float64], tolerance: float, radius: float) -> list[tuple[float, float]]:
    """(x, y) pixel centres of what is of a colour (3,) and about as large as a dot; radius in pixels."""
    mask = (likeness(picture, colour, tolerance) > 0.3).astype(np.uint8)
    count, _, stats, centres = cv2.connectedComponentsWithStats(mask)
    area = np.pi * radius**2
    return [
        (float(centres[n, 0]), float(centres[n, 1]))
        for n in range(1, count)
        if 0.2 * area < stats[n, cv2.CC_STAT_AREA] < 4 * area
    ]
