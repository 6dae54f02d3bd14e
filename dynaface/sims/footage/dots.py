"""Colour dots on a made-up performer's face, seen by a camera on a head mount: close wide lens, an arm that wobbles, changing light."""

from collections.abc import Iterator, Mapping
from dataclasses import dataclass, replace

import cv2
import numpy as np

from dynaface.core.curves.channels import Channels
from dynaface.core.markers.chart import MARKS
from dynaface.core.track.head import Array
from dynaface.core.track.likeness import Places
from dynaface.sims.footage.clip import Setting, render
from dynaface.sims.footage.performer import Performer

GREEN, BLUE, WHITE = (0.05, 0.55, 0.16), (0.04, 0.22, 0.66), (0.9, 0.9, 0.88)  # linear colour of the paint
RADIUS = 0.0026  # metres
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
    which = {tuple(sorted(t)): n for n, t in enumerate(head.triangles.tolist())}
    for place, colour in paint.items():
        corners, weights = places.corners[MARKS[place]], places.weights[MARKS[place]]
        triangle = which[tuple(sorted(corners.tolist()))]
        own = dict(zip(head.triangles[triangle].tolist(), head.triangle_uv[triangle].tolist(), strict=True))
        uv = head.uv[[own[c] for c in corners.tolist()]]
        _dot(texture, uv, performer.points[corners], weights, colour)
    return replace(performer, texture=np.clip(texture, 0, 1).astype(np.float32))


def _dot(texture: np.ndarray, uv: Array, points: Array, weights: Array, colour: tuple[float, float, float]) -> None:
    """Paints a disc of RADIUS about the place; uv (3, 2), points (3, 3) of its triangle."""
    size = texture.shape[0]
    across = np.stack([uv[1] - uv[0], uv[2] - uv[0]], axis=1)
    metres = np.stack([points[1] - points[0], points[2] - points[0]], axis=1) @ np.linalg.inv(across)  # (3, 2) by uv
    u, v = weights @ uv
    x, y = u * size - 0.5, (1 - v) * size - 0.5
    reach = int(4 * RADIUS / max(float(np.linalg.norm(metres, axis=0).min()), 1e-6) * size) + 3
    rows, columns = np.mgrid[int(y) - reach : int(y) + reach + 1, int(x) - reach : int(x) + reach + 1]
    off = np.stack([(columns - x) / size, -(rows - y) / size], axis=-1) @ metres.T
    inside = np.clip((RADIUS - np.linalg.norm(off, axis=-1)) / 0.0003 + 0.5, 0, 1)[..., None]
    part = texture[rows[0, 0] : rows[-1, 0] + 1, columns[0, 0] : columns[0, -1] + 1]
    part += inside * (np.array(colour) - part)


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
        centres.append((screen[places.corners[at]] * places.weights[at][..., None]).sum(axis=1))

    return DotFilm(render(painted(performer, places, paint), truth, setting, seed, watch), centres)
