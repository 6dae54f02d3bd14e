"""Colour dots on a made-up performer's face, seen by a camera on a head mount: close wide lens, an arm that wobbles, changing light."""

from collections.abc import Iterator, Mapping
from dataclasses import dataclass, replace

import cv2
import numpy as np

from dynaface.core.curves.channels import Channels
from dynaface.core.markers.chart import MARKS
from dynaface.core.track.head import SKIN, Array
from dynaface.core.track.likeness import Places
from dynaface.sims.footage.clip import Setting, render, scenes
from dynaface.sims.footage.performer import Performer

GREEN, BLUE, WHITE = (0.05, 0.55, 0.16), (0.04, 0.22, 0.66), (0.9, 0.9, 0.88)  # linear colour of the paint
RADIUS = 0.0026  # metres
NEAR, EDGE = (
    0.012,
    0.05,
)  # metres about a dot in which a triangle may be painted; how far over its edges, in shares of it
FINER = 2  # times the texture's own size
# Fourteen places: four that only carry the head, ten that move.
PLACES = ("bridge of the nose", "hairline", "hairline side left", "hairline side right", "brow inner left", "brow inner right", "brow mid left",
          "brow mid right", "cheek mid left", "cheek mid right", "mouth corner left", "mouth corner right", "upper lip mid", "chin pad")  # fmt: skip
FIXED = 4


def head_mount(seed: int) -> Setting:
    """A camera on an arm before the face: near, wide, shaken by steps, in a light that changes as the performer walks."""
    rng = np.random.default_rng(seed)
    key = np.array([rng.uniform(-0.5, 0.5), rng.uniform(0.0, 0.5), 1.0])
    return Setting(
        size=(640, 480), fov=70.0, away=float(rng.uniform(0.165, 0.18)), key=tuple(key / np.linalg.norm(key)), warmth=float(rng.uniform(-0.08, 0.08)),
        level=float(rng.uniform(0.75, 0.95)), ambient=float(rng.uniform(0.4, 0.55)), noise=float(rng.uniform(0.006, 0.012)), shake=0.0012, mounted=True,
        flicker=0.18,
    )  # fmt: skip


def colours(places: tuple[str, ...] = PLACES) -> dict[str, tuple[float, float, float]]:
    """place -> paint: green on what moves, blue on the lips, white never (teeth and eyes are white)."""
    return {p: BLUE if "lip" in p or "mouth" in p else GREEN for p in places}


def painted(performer: Performer, places: Places, paint: Mapping[str, tuple[float, float, float]]) -> Performer:
    """The performer with a dot on each place."""
    head = performer.head
    size = performer.texture.shape[0] * FINER
    texture = cv2.resize(performer.texture, (size, size), interpolation=cv2.INTER_CUBIC)
    skin = np.flatnonzero(head.part == SKIN)
    corners = performer.points[head.triangles[skin]]
    for place, colour in paint.items():
        middle = places.weights[MARKS[place]] @ performer.points[places.corners[MARKS[place]]]
        near = (np.linalg.norm(corners - middle, axis=2) < NEAR).any(axis=1)
        cover = np.zeros((size, size))
        for triangle, own in zip(skin[near], corners[near], strict=True):
            _cover(cover, head.uv[head.triangle_uv[triangle]], own, middle)
        rows, columns = np.nonzero(cover)
        texture[rows, columns] += cover[rows, columns, None] * (np.array(colour) - texture[rows, columns])
    return replace(performer, texture=np.clip(texture, 0, 1).astype(np.float32))


def _cover(cover: Array, uv: Array, points: Array, middle: Array) -> None:
    """How far texels (size, size) of a triangle lie within RADIUS of a point of the face: a disc on the skin, however the texture is
    stretched there. uv: (3, 2), points: (3, 3) of its corners.
    """
    size = len(cover)
    at = np.stack([uv[:, 0], 1 - uv[:, 1]], axis=1) * size - 0.5
    (left, top), (right, bottom) = np.floor(at.min(axis=0)).astype(int), np.ceil(at.max(axis=0)).astype(int)
    rows, columns = np.mgrid[max(top, 0) : min(bottom, size - 1) + 1, max(left, 0) : min(right, size - 1) + 1]
    sides = np.stack([at[1] - at[0], at[2] - at[0]], axis=1)
    if abs(np.linalg.det(sides)) < 1e-9:
        return
    share = np.stack([columns - at[0, 0], rows - at[0, 1]], axis=-1) @ np.linalg.inv(sides).T
    share = np.concatenate([1 - share.sum(axis=-1, keepdims=True), share], axis=-1)
    away = np.linalg.norm(share @ points - middle, axis=-1)
    # A texel on an edge belongs to both triangles.
    inside = np.where(share.min(axis=-1) > -EDGE, np.clip((RADIUS - away) / 0.0003 + 0.5, 0, 1), 0)
    cover[rows, columns] = np.maximum(cover[rows, columns], inside)


@dataclass
class DotFilm:
    """pictures: (height, width, 3) uint8 RGB one after the other; centres: (frames, dots, 2) pixels, filled while they are taken."""

    pictures: Iterator[np.ndarray]
    centres: list[Array]


def film(performer: Performer, places: Places, truth: Channels, setting: Setting, seed: int,
         paint: Mapping[str, tuple[float, float, float]]) -> DotFilm:  # fmt: skip
    """A clip of a performer with dots; `performer` is not painted yet."""
    at = [MARKS[p] for p in paint]
    centres: list[Array] = []

    def watch(screen: Array, _hidden: object) -> None:
        centres.append(places.on(screen)[at])

    return DotFilm(render(painted(performer, places, paint), truth, setting, seed, watch), centres)


def paint_centres(performer: Performer, places: Places, truth: Channels, setting: Setting, seed: int,
                  paint: Mapping[str, tuple[float, float, float]]) -> Array:  # fmt: skip
    """(frames, dots, 2) pixels of the middle of what the camera sees of each dot's paint in a `film`, NaN where it sees none: the
    skin bends, so that the far side of a dot is seen less, and a fold may hide part of it.
    """
    at = [MARKS[p] for p in paint]
    bare = replace(performer, texture=np.zeros_like(performer.texture))
    white = replace(performer, texture=np.ones_like(performer.texture))
    only = painted(bare, places, dict.fromkeys(paint, (1.0, 1.0, 1.0)))
    passes = [scenes(p, truth, setting, seed, np.random.default_rng(seed)) for p in (only, bare, white)]
    reach = 2 * RADIUS * setting.size[1] / 2 / np.tan(np.radians(setting.fov / 2)) / setting.away
    rows, columns = np.mgrid[: setting.size[1], : setting.size[0]] + 0.5
    out = np.full((truth.frames, len(at), 2), np.nan)
    for frame, (dotted, black, lit) in enumerate(zip(*passes, strict=True)):
        # Light on paint over light on all of the skin: whatever else is in the picture is the same in the three and falls out.
        cover = (dotted.image - black.image)[..., 1] / np.maximum((lit.image - black.image)[..., 1], 1e-6)
        for dot, (x, y) in enumerate(places.on(dotted.screen)[at]):
            own = np.where((columns - x) ** 2 + (rows - y) ** 2 < reach**2, cover, 0.0)
            if own.sum() > 1:
                out[frame, dot] = (own * columns).sum() / own.sum(), (own * rows).sum() / own.sum()
    return out
