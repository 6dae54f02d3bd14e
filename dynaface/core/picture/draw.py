"""Triangles onto pixels: nearest first by a depth buffer, colours by light on smooth normals.

Edge functions and attributes that are right in perspective (Pineda 1988, Heckbert 1989).
"""

from dataclasses import dataclass, field

import numpy as np
from numba import njit
from numpy.typing import NDArray

Floats = NDArray[np.float32]
Ints = NDArray[np.int64]
LEVELS = 1 << 14  # of light that a byte of sRGB is looked up for
NO_PICTURE: Floats = np.zeros((1, 1, 3), np.float32)


@dataclass(frozen=True)
class Paint:
    """What a surface looks like. colour: (3,) of 0..1, linear; picture: (height, width, 3) of 0..1, linear, that it is multiplied by, None for none; shine:
    0 dull .. 1; opacity: 0..1; both: whether its back is seen.
    """

    colour: Floats
    picture: Floats | None = None
    shine: float = 0.15
    opacity: float = 1.0
    both: bool = False


@dataclass(frozen=True)
class Light:
    """direction: (3,) towards it, of length 1; colour: (3,) linear."""

    direction: Floats
    colour: Floats


def _towards(x: float, y: float, z: float) -> Floats:
    found = np.array([x, y, z], np.float32)
    return np.asarray(found / np.linalg.norm(found), np.float32)


@dataclass(frozen=True)
class Lights:
    """lamps; sky, ground: (3,) linear light from above and from below."""

    lamps: tuple[Light, ...] = (
        Light(_towards(0.38, 0.68, 0.62), np.array([0.80, 0.72, 0.60], np.float32)),
        Light(_towards(-0.52, 0.57, -0.63), np.array([0.20, 0.36, 0.46], np.float32)),
    )
    sky: Floats = field(default_factory=lambda: np.array([0.40, 0.46, 0.47], np.float32))
    ground: Floats = field(default_factory=lambda: np.array([0.07, 0.05, 0.03], np.float32))


@dataclass(frozen=True)
class Canvas:
    """pixels: (height, width, 3) linear; depth: (height, width) one divided by metres, 0 for nothing."""

    pixels: Floats
    depth: Floats


def canvas(size: tuple[int, int], background: Floats) -> Canvas:
    """An empty one. size: (width, height)."""
    width, height = size
    return Canvas(np.tile(background.astype(np.float32), (height, width, 1)), np.zeros((height, width), np.float32))


def draw(
    on: Canvas,
    seen: Floats,
    normals: Floats,
    places: Floats,
    triangles: Ints,
    paint: Paint,
    lights: Lights,
    ahead: Floats,
) -> None:
    """Draws triangles (t, 3) of vertices. seen: (v, 3) as a camera sees them; normals: (v, 3); places: (v, 2) on the picture, 0..1 from its upper left corner;
    ahead: (3,) from the camera.
    """
    directions = np.array([lamp.direction for lamp in lights.lamps], np.float32).reshape(-1, 3)
    colours = np.array([lamp.colour for lamp in lights.lamps], np.float32).reshape(-1, 3)
    picture = paint.picture if paint.picture is not None else NO_PICTURE
    _fill(
        on.pixels, on.depth, np.ascontiguousarray(seen, np.float32), np.ascontiguousarray(normals, np.float32),
        np.ascontiguousarray(places, np.float32), np.ascontiguousarray(triangles, np.int64), paint.colour.astype(np.float32), picture,
        paint.picture is not None, np.float32(paint.shine), np.float32(paint.opacity), paint.both, directions, colours,
        lights.sky.astype(np.float32), lights.ground.astype(np.float32), np.ascontiguousarray(ahead, np.float32),
    )  # fmt: skip


@njit(nogil=True, cache=True, fastmath=True)
def _fill(pixels, depth, seen, normals, places, triangles, colour, picture, pictured, shine, opacity, both, directions, lamps, sky, ground, ahead):  # type: ignore[no-untyped-def]  # fmt: skip
    height, width = depth.shape
    rows, columns = picture.shape[0], picture.shape[1]
    for t in range(len(triangles)):
        a, b, c = triangles[t, 0], triangles[t, 1], triangles[t, 2]
        if seen[a, 2] <= 0 or seen[b, 2] <= 0 or seen[c, 2] <= 0:
            continue
        ax, ay, bx, by, cx, cy = seen[a, 0], seen[a, 1], seen[b, 0], seen[b, 1], seen[c, 0], seen[c, 1]
        area = (bx - ax) * (cy - ay) - (cx - ax) * (by - ay)
        if area == 0:
            continue
        # The picture's y goes down: what is seen from its front goes round against the clock, so its area is negative.
        flipped = area > 0
        if flipped and not both:
            continue
        x0, x1 = max(int(np.floor(min(ax, bx, cx))), 0), min(int(np.ceil(max(ax, bx, cx))), width - 1)
        y0, y1 = max(int(np.floor(min(ay, by, cy))), 0), min(int(np.ceil(max(ay, by, cy))), height - 1)
        for y in range(y0, y1 + 1):
            for x in range(x0, x1 + 1):
                px, py = x + 0.5, y + 0.5
                u = ((bx - px) * (cy - py) - (cx - px) * (by - py)) / area
                v = ((cx - px) * (ay - py) - (ax - px) * (cy - py)) / area
                w = 1 - u - v
                if u < 0 or v < 0 or w < 0:
                    continue
                near = u * seen[a, 2] + v * seen[b, 2] + w * seen[c, 2]
                if near <= depth[y, x]:
                    continue
                u, v, w = u * seen[a, 2] / near, v * seen[b, 2] / near, w * seen[c, 2] / near
                nx = u * normals[a, 0] + v * normals[b, 0] + w * normals[c, 0]
                ny = u * normals[a, 1] + v * normals[b, 1] + w * normals[c, 1]
                nz = u * normals[a, 2] + v * normals[b, 2] + w * normals[c, 2]
                length = np.sqrt(nx * nx + ny * ny + nz * nz)
                if length < 1e-9:
                    continue
                if flipped:
                    length = -length
                nx, ny, nz = nx / length, ny / length, nz / length
                red, green, blue = colour[0], colour[1], colour[2]
                if pictured:
                    s = u * places[a, 0] + v * places[b, 0] + w * places[c, 0]
                    r = u * places[a, 1] + v * places[b, 1] + w * places[c, 1]
                    fx, fy = (s - np.floor(s)) * columns - 0.5, (r - np.floor(r)) * rows - 0.5
                    left, top = int(np.floor(fx)), int(np.floor(fy))
                    across, down = fx - left, fy - top
                    l0, l1 = left % columns, (left + 1) % columns
                    t0, t1 = top % rows, (top + 1) % rows
                    k00, k01 = (1 - across) * (1 - down), across * (1 - down)
                    k10, k11 = (1 - across) * down, across * down
                    red *= (
                        k00 * picture[t0, l0, 0]
                        + k01 * picture[t0, l1, 0]
                        + k10 * picture[t1, l0, 0]
                        + k11 * picture[t1, l1, 0]
                    )
                    green *= (
                        k00 * picture[t0, l0, 1]
                        + k01 * picture[t0, l1, 1]
                        + k10 * picture[t1, l0, 1]
                        + k11 * picture[t1, l1, 1]
                    )
                    blue *= (
                        k00 * picture[t0, l0, 2]
                        + k01 * picture[t0, l1, 2]
                        + k10 * picture[t1, l0, 2]
                        + k11 * picture[t1, l1, 2]
                    )
                share = 0.5 + 0.5 * ny
                lr = ground[0] + (sky[0] - ground[0]) * share
                lg = ground[1] + (sky[1] - ground[1]) * share
                lb = ground[2] + (sky[2] - ground[2]) * share
                gleam = 0.0
                for k in range(len(directions)):
                    dx, dy, dz = directions[k, 0], directions[k, 1], directions[k, 2]
                    toward = nx * dx + ny * dy + nz * dz
                    if toward <= 0:
                        continue
                    lr += lamps[k, 0] * toward
                    lg += lamps[k, 1] * toward
                    lb += lamps[k, 2] * toward
                    hx, hy, hz = dx - ahead[0], dy - ahead[1], dz - ahead[2]
                    half = (nx * hx + ny * hy + nz * hz) / np.sqrt(hx * hx + hy * hy + hz * hz)
                    if half > 0:
                        sharp = half * half * half
                        sharp *= sharp
                        sharp *= sharp
                        gleam += sharp * sharp * lamps[k, 1]
                gleam *= shine
                red, green, blue = red * lr + gleam, green * lg + gleam, blue * lb + gleam
                if opacity >= 1:
                    depth[y, x] = near
                    pixels[y, x, 0], pixels[y, x, 1], pixels[y, x, 2] = red, green, blue
                else:
                    pixels[y, x, 0] += (red - pixels[y, x, 0]) * opacity
                    pixels[y, x, 1] += (green - pixels[y, x, 1]) * opacity
                    pixels[y, x, 2] += (blue - pixels[y, x, 2]) * opacity


def shown(pixels: Floats) -> NDArray[np.uint8]:
    """Linear light (height, width, 3) as bytes of sRGB (IEC 61966-2-1)."""
    return _CODED[np.clip(pixels * (LEVELS - 1) + 0.5, 0, LEVELS - 1).astype(np.uint16)]


def _coded() -> NDArray[np.uint8]:
    """The byte of each level of light; there are so many that dark ones stay apart."""
    light = np.arange(LEVELS) / (LEVELS - 1)
    made = np.where(light <= 0.0031308, light * 12.92, 1.055 * np.power(np.maximum(light, 1e-6), 1 / 2.4) - 0.055)
    return np.asarray(made * 255 + 0.5, np.uint8)


_CODED = _coded()


def linear(picture: NDArray[np.uint8]) -> Floats:
    """Bytes of sRGB as linear light."""
    given = picture.astype(np.float32) / 255
    return np.asarray(np.where(given <= 0.04045, given / 12.92, ((given + 0.055) / 1.055) ** 2.4), np.float32)
