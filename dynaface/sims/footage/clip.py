"""Clips: a performer before a camera, frame by frame, from truth curves."""

from collections.abc import Callable, Iterator
from dataclasses import dataclass, field

import cv2
import numpy as np
from numpy.typing import NDArray

from dynaface.core.body.rotations import head_rotation, rotate
from dynaface.core.curves.channels import Channels
from dynaface.core.shapes.standard import HEAD_ANGLES, SHAPES
from dynaface.core.track.head import Array, Head, eyeballs, vertex_normals
from dynaface.sims.footage.performer import Performer
from dynaface.sims.footage.raster import draw

NECK = np.array([0.0, -0.12, -0.075])  # the head turns about a place below and behind the eyes


EYE_COLOURS = np.array(
    [[0.07, 0.035, 0.015], [0.14, 0.075, 0.03], [0.10, 0.17, 0.26], [0.11, 0.16, 0.12], [0.16, 0.19, 0.2]]
)


@dataclass(frozen=True)
class Setting:
    """size: (width, height); fov: vertical degrees; away: metres from the eyes; key: direction of the key light in
    camera space; level, ambient: brightness; noise: of the sensor, in 0..1 of white; shake: metres of a hand-held camera;
    mounted: the camera is fixed to the head; hands: spans of frames (first, last) in which a hand passes the mouth;
    flicker: how far the light changes, as a share of it.
    """

    size: tuple[int, int] = (512, 512)
    fov: float = 36.0
    away: float = 0.52
    key: tuple[float, float, float] = (0.35, 0.45, 0.82)
    warmth: float = 0.0
    level: float = 0.85
    ambient: float = 0.42
    noise: float = 0.008
    shake: float = 0.0
    mounted: bool = False
    ground: tuple[float, float, float] = (0.10, 0.13, 0.14)
    hands: tuple[tuple[int, int], ...] = field(default_factory=tuple)
    flicker: float = 0.0


def random_setting(seed: int) -> Setting:
    """A setting of lens, light and ground from a seed."""
    rng = np.random.default_rng(seed)
    fov = rng.uniform(28, 46)
    key = np.array([rng.uniform(-0.7, 0.7), rng.uniform(0.1, 0.7), 1.0])
    return Setting(
        fov=float(fov),
        away=float(0.122 / np.tan(np.radians(fov / 2)) * rng.uniform(0.95, 1.15)),
        key=tuple(key / np.linalg.norm(key)),
        warmth=float(rng.uniform(-0.12, 0.12)),
        level=float(rng.uniform(0.65, 0.95)),
        ambient=float(rng.uniform(0.3, 0.5)),
        noise=float(rng.uniform(0.005, 0.012)),
        ground=tuple(rng.uniform(0.02, 0.25) * rng.uniform(0.8, 1.2, 3)),
    )


def render(performer: Performer, truth: Channels, setting: Setting, seed: int,
           watch: Callable[[Array, NDArray[np.bool_]], None] | None = None) -> Iterator[np.ndarray]:  # fmt: skip
    """(height, width, 3) uint8 RGB a frame; watch: called with each frame's (vertices, 2) pixels and which (vertices,) lie behind a
    hand, before it is given.
    """
    rng = np.random.default_rng(seed)
    for scene in scenes(performer, truth, setting, seed, rng):
        if watch:
            watch(scene.screen, scene.hidden)
        yield _sensor(scene.image, setting, rng)


@dataclass(frozen=True)
class Scene:
    """What falls on the sensor, before it is blurred, noisy and rounded. image: (height, width, 3) linear; screen: (vertices, 2)
    pixels; hidden: (vertices,) behind a hand.
    """

    image: NDArray[np.float32]
    screen: Array
    hidden: NDArray[np.bool_]


def scenes(performer: Performer, truth: Channels, setting: Setting, seed: int, rng: np.random.Generator
           ) -> Iterator[Scene]:  # fmt: skip
    """The same frames as light; rng: of the seed, drawn from before the first frame only. A performer with another texture gives the
    same in all else.
    """
    head = performer.head
    width, height = setting.size
    backdrop = _backdrop(setting, rng)
    shake = _shake(truth.frames, setting.shake, rng)
    weights = np.stack([truth.column(s) for s in SHAPES], axis=1).astype(np.float64)
    angles = np.stack([truth.column(n) for n in HEAD_ANGLES], axis=1).astype(np.float64)
    tint = EYE_COLOURS[rng.integers(len(EYE_COLOURS))]
    hand = _hand(rng)
    cloth = rng.uniform(0.03, 0.22) * rng.uniform(0.7, 1.3, 3)
    focal = height / 2 / np.tan(np.radians(setting.fov / 2))
    times = np.arange(truth.frames) / float(truth.rate)
    light = 1 + setting.flicker * np.sin(2 * np.pi * 0.37 * times + seed) * np.sin(2 * np.pi * 0.11 * times + 2 * seed)
    for frame in range(truth.frames):
        points = performer.pose(weights[frame])
        turn = head_rotation(*(a[None] for a in angles[frame]))[0]
        if setting.mounted:
            turn = np.array([0.0, 0.0, 0.0, 1.0])
        placed = rotate(turn, points - NECK) + NECK
        normal = rotate(turn, vertex_normals(points, head.triangles))
        view = placed + shake[frame] * [1, 1, 0.3]
        away = setting.away - view[:, 2]
        screen = np.stack([width / 2 + focal * view[:, 0] / away, height / 2 - focal * view[:, 1] / away], axis=1)
        image = backdrop.copy()
        depth = np.zeros((height, width))
        colour = np.array([1 + setting.warmth, 1.0, 1 - setting.warmth]) * setting.level * light[frame]
        centres, looks = _eyes(head, performer, points, turn, shake[frame])
        # Eyes and teeth lie behind the skin, so their order does not matter: depth decides.
        draw(image, depth, screen, away, normal, view, head.triangles, head.part, head.uv, head.triangle_uv,
             performer.texture, centres, looks, 28.0, tint, np.array(setting.key), colour, setting.ambient * light[frame])  # fmt: skip
        _collar(image, depth, focal / setting.away, width / 2 + focal * shake[frame, 0] / setting.away, cloth, setting)
        hidden = np.zeros(len(screen), bool)
        for first, last in setting.hands:
            if first <= frame <= last:
                discs = _passing(hand, (frame - first) / max(last - first, 1), focal / setting.away, setting)
                _draw_hand(image, discs, setting)
                hidden |= (np.linalg.norm(screen[:, None] - discs[None, :, :2], axis=2) < discs[:, 2]).any(axis=1)
        yield Scene(image, screen, hidden)


def _eyes(head: Head, performer: Performer, points: Array, turn: Array, shake: Array) -> tuple[Array, Array]:
    """Centres and looks of both eyes in camera space: where the iris is painted follows the eyeball's own vertices."""
    centres, looks = [], []
    for own in eyeballs(head):
        rest, now = performer.points[own], points[own]
        middle = now.mean(axis=0)
        u, _, vt = np.linalg.svd((rest - rest.mean(axis=0)).T @ (now - middle))
        spin = vt.T @ np.diag([1, 1, np.sign(np.linalg.det(vt.T @ u.T))]) @ u.T
        centres.append(rotate(turn, middle - NECK) + NECK + shake * [1, 1, 0.3])
        looks.append(rotate(turn, spin @ np.array([0.0, 0.0, 1.0])))
    return np.array(centres), np.array(looks)


def _backdrop(setting: Setting, rng: np.random.Generator) -> np.ndarray:
    width, height = setting.size
    field_ = cv2.GaussianBlur(rng.normal(0, 1, (height, width)).astype(np.float32), (0, 0), 28)
    shade = 1 + 0.5 * field_ / max(float(np.abs(field_).max()), 1e-6)
    return (np.array(setting.ground, np.float32) * shade[..., None]).astype(np.float32)


def _shake(frames: int, size: float, rng: np.random.Generator) -> Array:
    if size <= 0:
        return np.zeros((frames, 3))
    walk = cv2.GaussianBlur(rng.normal(0, 1, (frames + 60, 3)).astype(np.float32), (1, 0), sigmaX=0.1, sigmaY=9)
    walk = walk[30 : 30 + frames]
    return size * walk / max(float(walk.std()), 1e-9)


def _collar(image: np.ndarray, depth: Array, scale: float, middle: float, cloth: np.ndarray, setting: Setting) -> None:
    """Draws the collar of a coat over the end of the neck, behind chin and jaw; it stays with the body."""
    height, width = image.shape[:2]
    y, x = np.mgrid[0:height, 0:width]
    side, down = np.abs(x - middle) / scale, (y - height / 2) / scale
    # A collar that stands higher beside the throat, then slopes to the shoulders.
    edge = 0.106 - 0.42 * np.clip(side - 0.022, 0, 0.058) + 0.5 * np.clip(side - 0.082, 0, None)
    behind = depth > 1 / (setting.away + 0.012)
    inside = (np.clip((down - edge) * scale / 2, 0, 1) * ~behind)[..., None]
    ribs = 1 + 0.10 * np.sin((x - middle) / scale * 700)[..., None]
    light = setting.level * np.clip(0.45 + 9 * (down - edge), 0.45, 1)[..., None]
    image += inside * (cloth * ribs * light - image).astype(np.float32)


def _hand(rng: np.random.Generator) -> np.ndarray:
    """(n, 4) discs of a flat hand in metres about its middle: x, y, radius, shade."""
    palm = [(0.0, 0.0, 0.032, 1.0)]
    fingers = [
        (0.018 * (f - 1.5) + 0.004 * t, 0.03 + 0.016 * t, 0.0095, 1 - 0.05 * (f % 2))
        for f in range(4)
        for t in range(5)
    ]
    tone = rng.uniform(0.75, 1.1)
    return np.array([(x, y, r, s * tone) for x, y, r, s in palm + fingers])


def _passing(hand: np.ndarray, part: float, scale: float, setting: Setting) -> np.ndarray:
    """(n, 4) discs of a hand that comes from below, stays before the mouth and leaves: x, y, radius in pixels, shade."""
    width, height = setting.size
    rise = np.clip(min(part, 1 - part) / 0.2, 0, 1)
    middle = [width / 2 + 0.01 * scale * np.sin(part * 9), height / 2 + scale * (0.20 - 0.115 * rise)]
    return np.column_stack([middle + hand[:, :2] * [scale, -scale], hand[:, 2] * scale, hand[:, 3]])


def _draw_hand(image: np.ndarray, discs: np.ndarray, setting: Setting) -> None:
    height, width = image.shape[:2]
    rows, columns = np.mgrid[0:height, 0:width]
    for x, y, radius, shade in discs:
        inside = ((columns - x) ** 2 + (rows - y) ** 2) / radius**2
        on = inside < 1
        round_ = np.sqrt(np.clip(1 - inside[on], 0, 1))
        image[on] = (np.array([0.40, 0.24, 0.17]) * shade * (0.35 + 0.6 * round_[:, None])) * setting.level


def _sensor(image: np.ndarray, setting: Setting, rng: np.random.Generator) -> np.ndarray:
    soft = cv2.GaussianBlur(image, (0, 0), 0.6)
    seen = np.clip(soft, 0, 1) ** (1 / 2.2)
    seen += rng.normal(0, setting.noise, seen.shape).astype(np.float32)
    return (np.clip(seen, 0, 1) * 255 + 0.5).astype(np.uint8)
