"""Characters in motion as pictures."""

from collections.abc import Iterator, Mapping, Sequence
from concurrent.futures import ThreadPoolExecutor
from dataclasses import dataclass, replace
from functools import cached_property

import cv2
import numpy as np
from numpy.typing import NDArray
from scipy.ndimage import gaussian_filter1d

from dynaface.core.body.rotations import about, rotate
from dynaface.core.handover.delivery import Figure
from dynaface.core.picture.camera import Camera, framing
from dynaface.core.picture.draw import Canvas, Floats, Lights, canvas, draw, linear, shown
from dynaface.core.picture.model import Mesh
from dynaface.formats.gltf.binding import Binding, worlds_of
from dynaface.formats.gltf.painted import painted

Pixels = NDArray[np.uint8]
Array = NDArray[np.float64]
LENS = 26.0  # degrees
EVERY, STEADY = 6, 0.5  # frames between those that a camera looks ahead at, and seconds over which it follows
ROOM = 1.15  # of the heights of what it frames
FINE = 1.5  # pixels that are drawn for one that is shown
WORKERS = 2
FRAMES = {"the faces": "face", "all of them": "whole"}
"""What can be shown, in words -> what `cameras` takes."""
BACKGROUND = linear(np.array([[[21, 35, 30]]], np.uint8))[0, 0]


@dataclass(frozen=True)
class Actor:
    """A figure that can be drawn."""

    figure: Figure

    @cached_property
    def _painted(self) -> tuple[tuple[Mesh, ...], Binding | None]:
        assert self.figure.model is not None
        return painted(self.figure.model)

    @property
    def meshes(self) -> tuple[Mesh, ...]:
        """Its meshes."""
        return self._painted[0]

    @cached_property
    def face(self) -> Mesh:
        """The mesh with most targets; of equal ones the finer."""
        return max(self.meshes, key=lambda m: (len(m.offsets), len(m.points)))

    @cached_property
    def _unbound(self) -> Array | None:
        """(joints, 4, 4) from where joints are when meshes are bound to their own space."""
        binding = self._painted[1]
        return None if binding is None else np.asarray(np.linalg.inv(binding.binds))

    @cached_property
    def _still(self) -> frozenset[tuple[str, str]]:
        return frozenset(self.figure.performance.cast.still)

    def posed(self, mesh: Mesh, weights: Mapping[str, float], carried: Array | None) -> tuple[Array, Array]:
        """(points, normals) (v, 3) of a mesh in the scene."""
        own = {t: w for t, w in weights.items() if (mesh.name, t) not in self._still}
        points, normals = mesh.posed(own, carried)
        turn = about("y", self.figure.turn)
        return rotate(turn, points) + np.asarray(self.figure.at), rotate(turn, normals)

    def frame(self, number: int) -> tuple[dict[str, float], Array | None]:
        """(weights by target, (joints, 4, 4) from the bind pose to where joints are) in a frame."""
        made = self.figure.performance.rows(slice(number, number + 1))
        weights = dict(zip(made.cast.targets, made.cast.weights[0].astype(float).tolist(), strict=True))
        binding = self._painted[1]
        return weights, None if binding is None else worlds_of(made, binding)[0] @ self._unbound


def cameras(actors: tuple[Actor, ...], what: str, size: tuple[int, int]) -> list[Camera]:
    """One for each frame: what "face" frames the faces and goes along with them, "whole" stands still before all that there is."""
    count = actors[0].figure.performance.channels.frames
    looked = np.unique([*range(0, count, EVERY), count - 1])
    boxes = np.array([_box(actors, what, n) for n in looked])
    turn = _front(actors)
    aside = rotate(about("y", -turn), np.eye(3))
    if what == "whole":
        low, high = boxes[:, 0].min(axis=0), boxes[:, 1].max(axis=0)
        extent = np.abs(aside[0] * (high - low)).sum()
        return [framing((low + high) / 2, (high - low)[1] * 1.1, extent * 1.1, LENS, size, turn)] * count
    rate = float(actors[0].figure.performance.channels.rate)
    centres = boxes.mean(axis=1)
    every = np.stack([np.interp(np.arange(count), looked, c) for c in centres.T], axis=1)
    every = gaussian_filter1d(every, STEADY * rate, axis=0, mode="nearest")
    wide = np.percentile(boxes[:, 1] - boxes[:, 0], 95, axis=0)
    return [framing(c, wide[1] * ROOM, wide[0] * ROOM, LENS, size, turn) for c in every]


def _front(actors: tuple[Actor, ...]) -> float:
    """Degrees of the way in which the figures look together."""
    turns = np.radians([a.figure.turn for a in actors])
    side, ahead = np.sin(turns).sum(), np.cos(turns).sum()
    return float(np.degrees(np.arctan2(side, ahead))) if np.hypot(side, ahead) > 0.3 else 0.0


def _box(actors: tuple[Actor, ...], what: str, number: int) -> Array:
    """(2, 3) lowest and highest place of what is framed."""
    lows, highs = [], []
    for actor in actors:
        weights, carried = actor.frame(number)
        for mesh in actor.meshes if what == "whole" else (actor.face,):
            points, _ = actor.posed(mesh, weights, carried)
            lows.append(points.min(axis=0))
            highs.append(points.max(axis=0))
    return np.array([np.min(lows, axis=0), np.max(highs, axis=0)])


def picture(actors: tuple[Actor, ...], number: int, camera: Camera, lights: Lights) -> Pixels:
    """(height, width, 3) of a frame."""
    width, height = camera.size
    fine = (round(width * FINE), round(height * FINE))
    closer = replace(camera, size=fine)
    on = canvas(fine, BACKGROUND)
    ahead = camera.ahead.astype(np.float32)
    posed = []
    for actor in actors:
        weights, carried = actor.frame(number)
        posed += [(m, *actor.posed(m, weights, carried)) for m in actor.meshes]
    for solid in (True, False):  # what can be seen through comes last
        for mesh, points, normals in posed:
            _draw(on, mesh, points, normals, closer, lights, ahead, solid)
    small = cv2.resize(on.pixels, camera.size, interpolation=cv2.INTER_AREA)
    return shown(small)


def _draw(
    on: Canvas, mesh: Mesh, points: Array, normals: Array, camera: Camera, lights: Lights, ahead: Floats, solid: bool
) -> None:
    parts = [p for p in mesh.parts if (p[2].opacity >= 1) == solid]
    if not parts:
        return
    seen, turned, places = (a.astype(np.float32) for a in (camera.sees(points), normals, mesh.places))
    for first, stop, paint in parts:
        draw(on, seen, turned, places, mesh.triangles[first:stop], paint, lights, ahead)


def filmed(figures: tuple[Figure, ...], what: str, size: tuple[int, int], frames: Sequence[int]) -> Iterator[Pixels]:
    """The pictures of some frames in their order, two worked on at a time."""
    actors = tuple(Actor(f) for f in figures)
    seen, lights = cameras(actors, what, size), Lights()
    with ThreadPoolExecutor(WORKERS) as pool:
        waiting = []
        for number in frames:
            waiting.append(pool.submit(picture, actors, number, seen[number], lights))
            if len(waiting) > 2 * WORKERS:
                yield waiting.pop(0).result()
        for one in waiting:
            yield one.result()
