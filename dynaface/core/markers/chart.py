"""The face chart: places of the face that a marker can sit on, by anatomical words, on the general head.

Sides are the performer's own. Fixed places lie over bone that expressions do not move: they only carry the head.
"""

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from dynaface.core.shapes.regions import REGION
from dynaface.core.shapes.standard import SHAPES
from dynaface.core.track.head import Array, Head, eyeballs
from dynaface.core.track.likeness import Places

# Place -> the landmark of the general head that lies there (the right one of a pair, then the left one).
_MIDDLE = {
    "hairline": 10, "forehead": 151, "bridge of the nose": 168, "nose ridge": 197, "nose tip": 1, "upper lip mid": 0,
    "lower lip mid": 17, "chin hollow": 18, "chin pad": 200, "chin": 152,
}  # fmt: skip
_PAIRS = {
    "hairline side": (103, 332), "temple": (21, 251), "before the ear": (127, 356), "brow inner": (107, 336),
    "brow mid": (105, 334), "brow outer": (70, 300), "forehead over brow": (104, 333), "upper lid": (159, 386), "upper lid outer": (160, 387),
    "lower lid": (145, 374), "eye outer corner": (130, 359), "under eye inner": (120, 349), "under eye outer": (117, 346),
    "nose root side": (122, 351), "nostril": (129, 358), "nose side": (198, 420), "cheek upper": (50, 280), "cheek mid": (205, 425),
    "cheek outer": (187, 411), "cheek lower": (216, 436), "smile fold": (206, 426), "upper lip outer": (39, 269),
    "upper lip inner": (37, 267), "mouth corner": (61, 291), "lower lip outer": (181, 405), "lower lip inner": (84, 314),
    "beside the mouth": (57, 287), "chin side": (176, 400), "jaw mid": (150, 379), "jaw angle": (172, 397), "jaw upper": (132, 361),
}  # fmt: skip
_IRISES = (468, 469)  # come after the landmarks of the skin: see with_irises
MARKS: dict[str, int] = {
    **_MIDDLE,
    **{
        f"{name} {side}": pair[k]
        for name, pair in (*_PAIRS.items(), ("iris", _IRISES))
        for k, side in ((0, "right"), (1, "left"))
    },
}
IRIS_SPREAD = 0.0005  # metres
_FIXED = {"hairline", "bridge of the nose", "hairline side", "temple", "before the ear"}


def mirrored_place(name: str) -> str:
    """The place on the other side of the face; a place in the middle is its own."""
    for side, other in (("left", "right"), ("right", "left")):
        if name.endswith(f" {side}"):
            return f"{name.removesuffix(side)}{other}"
    return name


def with_irises(head: Head, places: Places) -> Places:
    """Places of the landmarks of the skin, then the middle of the right and the left iris: the foremost vertex of each eyeball."""
    left, right = eyeballs(head)
    front = np.array([ball[np.argmax(head.points[ball, 2])] for ball in (right, left)])
    return Places(
        np.concatenate([places.corners, np.repeat(front[:, None], 3, axis=1).astype(places.corners.dtype)]),
        np.concatenate([places.weights, np.tile([1.0, 0.0, 0.0], (2, 1))]),
        np.concatenate([places.spread, np.full(2, IRIS_SPREAD)]),
    )


@dataclass(frozen=True)
class Chart:
    """names: places; points: (places, 3) on the general head's rest, shapes: (52, places, 3) how each shape moves them,
    modes: (modes, places, 3) how likenesses do; fixed: (places,).
    """

    names: tuple[str, ...]
    points: Array
    shapes: Array
    modes: Array
    fixed: NDArray[np.bool_]


def face_chart(head: Head, places: Places) -> Chart:
    """The chart on a head; places: of the landmarks of its skin."""
    at, places = list(MARKS.values()), with_irises(head, places)

    def there(values: Array) -> Array:
        return places.on(values)[at]

    fixed = np.array([name.removesuffix(" left").removesuffix(" right") in _FIXED for name in MARKS])
    shapes = np.stack([there(s) for s in head.shapes])
    shapes[:, fixed] = 0.0
    return Chart(tuple(MARKS), there(head.points), shapes, np.stack([there(m) for m in head.modes]), fixed)


def region_of_place(chart: Chart, number: int) -> str:
    """The region whose shapes move a place most; places that none moves carry the head."""
    if chart.fixed[number]:
        return "head"
    moved = np.linalg.norm(chart.shapes[:, number], axis=1)
    return REGION[SHAPES[int(np.argmax(moved))]]
