"""Paints skin, eyes and cloth by place in space: each texel knows where on the figure it is (metres)."""

from dataclasses import dataclass

import numpy as np

from tools.characters.surface import noise

Colour = tuple[float, float, float]
GREY_GREEN: Colour = (0.36, 0.47, 0.44)
OUTER = np.array([0.61, 0.70, 0.80])  # the rim of an iris against its middle


@dataclass(frozen=True)
class Face:
    """Places on the face in metres: centres of the eyes (left is +x), corners and middle of the mouth, tip of nose."""

    eye: np.ndarray
    mouth: np.ndarray
    mouth_half: float
    nose: np.ndarray


def blob(points: np.ndarray, centre: np.ndarray, size: np.ndarray) -> np.ndarray:
    """A soft spot 0..1 round a centre with a size along each axis."""
    return np.exp(-0.5 * (((points - centre) / size) ** 2).sum(axis=-1))


def mix(colour: np.ndarray, other: tuple[float, float, float], amount: np.ndarray) -> np.ndarray:
    """Colour (..., 3) toward another by amount (...)."""
    return colour + (np.array(other) - colour) * np.clip(amount, 0, 1)[..., None]


def blob_pair(points: np.ndarray, centre: np.ndarray, size: np.ndarray) -> np.ndarray:
    """A soft spot 0..1 on both sides of the face."""
    mirrored = centre * [-1, 1, 1]
    return np.maximum(blob(points, centre, size), blob(points, mirrored, size))


def _line(points: np.ndarray, path: np.ndarray, width: float) -> np.ndarray:
    """A soft line along a path of (x, y) seen from the front, both sides of the face, 0..1."""
    flat = np.stack([np.abs(points[..., 0]), points[..., 1]], axis=-1)
    best = np.full(points.shape[:-1], np.inf)
    along = np.zeros(points.shape[:-1])
    for i, (a, b) in enumerate(zip(path[:-1], path[1:], strict=True)):
        ab = b - a
        t = np.clip(((flat - a) @ ab) / (ab @ ab), 0, 1)
        distance = np.linalg.norm(flat - a - t[..., None] * ab, axis=-1)
        closer = distance < best
        best = np.where(closer, distance, best)
        along = np.where(closer, (i + t) / (len(path) - 1), along)
    fade = np.clip((1 - along) * 4, 0, 1) * np.clip(along * 4 + (path[0, 0] == 0), 0, 1)
    return np.exp(-0.5 * (best / width) ** 2) * fade


def skin(points: np.ndarray, face: Face, lips: np.ndarray, lids: np.ndarray, inside: np.ndarray) -> np.ndarray:
    """(..., 3) sRGB 0..1 of weathered older skin; lips, lids, inside: (...) masks 0..1 on the same texels."""
    colour = np.broadcast_to([0.79, 0.585, 0.475], points.shape).copy()
    front = np.clip((points[..., 2] - face.eye[2] + 0.045) / 0.04, 0, 1)
    colour *= 1 + 0.045 * noise(points, 0.011, 1)[..., None] + 0.03 * noise(points, 0.0035, 2)[..., None]
    colour = mix(colour, (0.70, 0.43, 0.36), 0.22 * (noise(points, 0.006, 3) > 0.35) * front)
    # Wind and weather: cheeks, nose and chin are redder, the brow paler, the eye sockets darker.
    cheek = face.eye + [0.012, -0.036, 0.004]
    colour = mix(colour, (0.78, 0.40, 0.335), 0.58 * blob_pair(points, cheek, np.array([0.019, 0.015, 0.03])))
    colour = mix(colour, (0.77, 0.41, 0.345), 0.55 * blob(points, face.nose, np.array([0.013, 0.013, 0.02])))
    chin = np.array([0, face.mouth[1] - 0.034, face.mouth[2]])
    colour = mix(colour, (0.76, 0.46, 0.38), 0.3 * blob(points, chin, np.array([0.02, 0.012, 0.03])))
    brow_bone = np.array([0, face.eye[1] + 0.055, face.eye[2]])
    colour = mix(colour, (0.86, 0.68, 0.57), 0.35 * blob(points, brow_bone, np.array([0.05, 0.02, 0.06])))
    socket = face.eye + [0.001, -0.002, 0.012]
    colour = mix(colour, (0.53, 0.335, 0.29), 0.50 * blob_pair(points, socket, np.array([0.020, 0.0125, 0.03])))
    bag = face.eye + [0.002, -0.016, 0.012]
    colour = mix(colour, (0.60, 0.38, 0.35), 0.35 * blob_pair(points, bag, np.array([0.013, 0.004, 0.03])))
    colour = mix(colour, (0.47, 0.27, 0.235), 0.5 * lids)
    colour = wrinkles(colour, points, face, front)
    colour = freckles(colour, points, front)
    rim = lips * (0.85 + 0.15 * noise(points, 0.0016, 9))
    colour = mix(colour, (0.62, 0.295, 0.275), 0.85 * rim)
    seam = np.exp(-0.5 * ((points[..., 1] - face.mouth[1]) / 0.0011) ** 2) * (
        np.abs(points[..., 0]) < face.mouth_half * 1.02
    )
    colour = mix(colour, (0.30, 0.12, 0.12), 0.55 * seam * front)
    colour = mix(colour, (0.33, 0.11, 0.11), 0.92 * inside)
    return np.clip(colour, 0, 1)


def wrinkles(colour: np.ndarray, points: np.ndarray, face: Face, front: np.ndarray) -> np.ndarray:
    """Lines of age: brow, crow's feet, from nose to mouth, round the lips."""
    ex, ey, _ = face.eye
    mx, my = face.mouth_half, face.mouth[1]
    total = np.zeros(points.shape[:-1])
    for i, height in enumerate((0.041, 0.0485, 0.057)):
        x = np.linspace(0, ex + 0.010 - 0.004 * i, 14)
        y = ey + height + 0.0011 * np.sin(x * 95 + 2 * i) - 1.6 * x**2
        total = np.maximum(total, 0.42 * _line(points, np.stack([x, y], axis=1), 0.0008) ** 0.9)
    for angle in (0.55, 0.18, -0.15, -0.5):
        start = np.array([ex + 0.0185, ey + 0.001 + 0.004 * angle])
        end = start + 0.016 * np.array([np.cos(angle), np.sin(angle)])
        bend = (start + end) / 2 + [0, 0.0015]
        total = np.maximum(total, 0.6 * _line(points, np.array([start, bend, end]), 0.0006))
    fold = np.array([[0.0175, my + 0.034], [0.0235, my + 0.022], [mx + 0.008, my + 0.006], [mx + 0.009, my - 0.010]])
    total = np.maximum(total, 0.75 * _line(points, fold, 0.0013))
    down = np.array([[mx + 0.002, my - 0.002], [mx + 0.0055, my - 0.010], [mx + 0.0055, my - 0.020]])
    total = np.maximum(total, 0.6 * _line(points, down, 0.0010))
    for side in np.linspace(0.15, 0.85, 6):
        x = side * mx
        up = np.array([[x, my + 0.0085 - 0.004 * side], [x * 1.08, my + 0.0165]])
        total = np.maximum(total, 0.35 * _line(points, up, 0.0005))
    frown = np.array([[0.0065, ey + 0.022], [0.0055, ey + 0.030], [0.0062, ey + 0.037]])
    total = np.maximum(total, 0.55 * _line(points, frown, 0.0007))
    bag = np.array([[ex - 0.013, ey - 0.014], [ex, ey - 0.0195], [ex + 0.014, ey - 0.0155]])
    total = np.maximum(total, 0.5 * _line(points, bag, 0.0008))
    return mix(colour, (0.45, 0.255, 0.21), 0.75 * total * front)


def freckles(colour: np.ndarray, points: np.ndarray, front: np.ndarray) -> np.ndarray:
    """Spots of age and sun."""
    spots = np.clip((noise(points, 0.0042, 21) - 0.55) * 4, 0, 1) * np.clip(noise(points, 0.02, 22) + 0.5, 0, 1)
    return mix(colour, (0.50, 0.315, 0.235), 0.4 * spots * (0.4 + 0.6 * front))


def brow_hairs(image: np.ndarray, points: np.ndarray, on: np.ndarray, face: Face, seed: int) -> np.ndarray:
    """Grey-brown brows of many short hairs along an arc above each eye; image (h, w, 3) sRGB 0..1."""
    rng = np.random.default_rng(seed)
    ex, ey, _ = face.eye
    flat = np.stack([np.abs(points[..., 0]), points[..., 1]], axis=-1)
    out = image.copy()
    near = (
        on & (points[..., 2] > face.eye[2]) & (flat[..., 0] < ex + 0.035) & (np.abs(flat[..., 1] - ey - 0.021) < 0.02)
    )
    rows, columns = np.nonzero(near)
    spots = flat[rows, columns]
    shade = np.zeros(len(spots))
    tone = np.zeros(len(spots))
    for _ in range(900):
        along = rng.beta(1.15, 1.35)
        x = ex - 0.021 + 0.048 * along
        arch = ey + 0.0170 + 0.0072 * np.sin(np.pi * (along * 0.80 + 0.12)) - 0.0045 * along**2
        # Thin and sparse toward both ends: no edge shows where the brow begins.
        half = 0.0040 * np.clip(5 * along, 0.25, 1) * (1 - 0.75 * along)
        start = np.array([x, arch + np.clip(rng.normal(0, 0.42), -1, 1) * half])
        lean = rng.normal(1.25 - 1.30 * along, 0.26)
        end = start + rng.uniform(0.0038, 0.0068) * np.array([np.cos(lean), np.sin(lean)])
        ab = end - start
        t = np.clip(((spots - start) @ ab) / (ab @ ab), 0, 1)
        distance = np.linalg.norm(spots - start - t[:, None] * ab, axis=1)
        strength = rng.uniform(0.25, 0.62) * np.clip(7 * along, 0.35, 1)
        hair = np.exp(-0.5 * (distance / (0.00030 * (1.2 - 0.9 * t))) ** 2) * strength
        new = hair > shade
        tone[new] = rng.uniform(0, 1)
        shade = np.maximum(shade, hair)
    base = np.array([0.30, 0.25, 0.22]) + tone[:, None] * np.array([0.36, 0.36, 0.36])
    out[rows, columns] = out[rows, columns] * (1 - shade[:, None]) + base * shade[:, None]
    return out


def hair_line(image: np.ndarray, points: np.ndarray, on: np.ndarray, cover: np.ndarray, seed: int) -> np.ndarray:
    """Grey hair combed back under the scarf: single strands that begin at the hairline, thin there and close together behind;
    cover: (h, w) metres behind the scarf's edge.
    """
    top = points[on][:, 1].max()
    crown = np.array([0.0, top - 0.04, points[on][:, 2].max() - 0.13])
    away = points - crown
    # Strands run to the crown: what is alike along a strand is the angle about the way there.
    angle = np.arctan2(away[..., 0], away[..., 1])
    fine = np.stack([angle * 0.11, 0.02 * away[..., 2], np.zeros_like(angle)], axis=-1)
    strand = np.clip(0.5 + 0.36 * noise(fine, 0.00042, seed) + 0.22 * noise(fine, 0.0013, seed + 1), 0, 1)
    begins = -0.012 + 0.005 * noise(points, 0.011, seed + 2) + 0.005 * strand
    high = np.clip((points[..., 1] - (top - 0.150)) / 0.03, 0, 1)
    amount = np.clip((cover - begins) / 0.016, 0, 1) ** 0.7 * (0.55 + 0.45 * strand) * high * on
    grey = np.array([0.44, 0.42, 0.40]) + strand[..., None] * np.array([0.36, 0.355, 0.35])
    return image * (1 - amount[..., None]) + grey * amount[..., None]


def eye(points: np.ndarray, centre: np.ndarray, seed: int, colour_of_iris: Colour = GREY_GREEN) -> np.ndarray:
    """(..., 3) sRGB of an eyeball at positions about its centre, looking along +z: an iris with a dark rim."""
    away = points - centre
    away = away / np.maximum(np.linalg.norm(away, axis=-1, keepdims=True), 1e-9)
    angle = np.degrees(np.arccos(np.clip(away[..., 2], -1, 1)))
    round_ = np.arctan2(away[..., 1], away[..., 0])
    colour = np.broadcast_to([0.90, 0.875, 0.845], points.shape).copy()
    colour = mix(colour, (0.80, 0.52, 0.47), np.clip((angle - 42) / 45, 0, 1) * 0.8)
    veins = np.clip(np.sin(round_ * 23 + 3 * noise(points, 0.003, seed)) - 0.93, 0, 1) * 14
    colour = mix(colour, (0.74, 0.42, 0.38), 0.35 * veins * np.clip((angle - 36) / 20, 0, 1))
    iris, pupil = 27.0, 10.0
    rng = np.random.default_rng(seed)
    phases, counts = rng.uniform(0, 6.28, 9), rng.integers(14, 70, 9)
    rays = sum(np.sin(round_ * c + p) for c, p in zip(counts, phases, strict=True)) / 9
    depth = np.clip((angle - pupil) / (iris - pupil), 0, 1)
    inner = np.array(colour_of_iris)
    tint = inner * (1 - depth[..., None]) + inner * OUTER * depth[..., None]
    tint = tint * (1 + 0.30 * rays[..., None]) + (0.12 * np.exp(-0.5 * ((depth - 0.22) / 0.13) ** 2))[
        ..., None
    ] * np.array([1.0, 0.7, 0.3])
    colour = np.where((angle < iris)[..., None], tint, colour)
    rim = np.exp(-0.5 * ((angle - iris) / 1.8) ** 2)
    colour = mix(colour, (0.09, 0.12, 0.13), 0.85 * rim)
    return np.clip(mix(colour, (0.015, 0.015, 0.02), 1 / (1 + np.exp((angle - pupil) * 2.2))), 0, 1)


def weave(points: np.ndarray, base: tuple[float, float, float], size: float, depth: float) -> np.ndarray:
    """(..., 3) sRGB of rib-knit cloth: upright ribs with stitches."""
    angle = np.arctan2(points[..., 0], points[..., 2])
    ribs = np.sin(angle * 90)
    stitch = np.sin(points[..., 1] / size * np.pi * 2 + (ribs > 0) * 1.6)
    shade = 1 + depth * (0.6 * ribs + 0.4 * stitch * np.abs(ribs)) + 0.06 * noise(points, 0.05, 5)
    return np.clip(np.array(base) * shade[..., None], 0, 1)


def linear(colour: tuple[float, float, float]) -> tuple[float, float, float]:
    """sRGB 0..1 to linear."""
    c = np.array(colour)
    out = np.where(c <= 0.04045, c / 12.92, ((c + 0.055) / 1.055) ** 2.4)
    return tuple(float(v) for v in out)  # type: ignore[return-value]
