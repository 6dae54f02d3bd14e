"""Odile, an old ferry pilot: `python -m tools.characters.odile --data FOLDER --out dynaface/assets/characters/odile.glb`.

FOLDER is the data folder of the CC0 base figure (see NOTICE for how to get it).
"""

import io
from collections.abc import Mapping
from pathlib import Path

import numpy as np
from PIL import Image, ImageFilter
from scipy.ndimage import gaussian_filter
from scipy.spatial import cKDTree

from dynaface.core.shapes.standard import SHAPES
from tools.characters import mouth, paint
from tools.characters.base import Base, Rig, read_base, read_rig, read_target
from tools.characters.command import build_from_data
from tools.characters.export import Piece, Writer
from tools.characters.surface import Drawn, drawn, normals, smoothed, texel_positions, triangles

# Target -> weight: who she is.
LIKENESS = {
    "macrodetails/caucasian-female-old": 0.5, "macrodetails/african-female-old": 0.2, "macrodetails/asian-female-old": 0.1,
    "macrodetails/caucasian-female-young": 0.2,
    "macrodetails/universal-female-old-averagemuscle-averageweight": 0.55,
    "macrodetails/universal-female-old-averagemuscle-maxweight": 0.20,
    "macrodetails/universal-female-young-averagemuscle-averageweight": 0.25,
    "nose/nose-hump-incr": 0.35, "nose/nose-point-down": 0.25, "nose/nose-scale-depth-incr": 0.15,
    "head/head-square": 0.25, "chin/chin-bones-incr": 0.3, "chin/chin-jaw-drop-incr": 0.15,
    "cheek/l-cheek-bones-incr": 0.5, "cheek/r-cheek-bones-incr": 0.5,
    "eyes/l-eye-bag-incr": 0.35, "eyes/r-eye-bag-incr": 0.35,
    "eyes/l-eye-corner2-down": 0.30, "eyes/r-eye-corner2-down": 0.30, "mouth/mouth-laugh-lines-in": 0.25,
    "mouth/mouth-angles-up": 0.5, "eyebrows/eyebrows-trans-up": 0.35,
}  # fmt: skip
# What of her shapes is in her face at rest: kind and calm, so that a performance reads.
REST = {"mouthSmileLeft": 0.26, "mouthSmileRight": 0.26, "browInnerUp": 0.10, "browOuterUpLeft": 0.22, "browOuterUpRight": 0.22,
        "cheekSquintLeft": 0.12, "cheekSquintRight": 0.12}  # fmt: skip
LOOKS = tuple(s for s in SHAPES if s.startswith("eyeLook"))
CREDIT = "Base figure and face shapes: MakeHuman community, CC0 1.0"
COAT, SCARF, TROUSERS, BOOTS = (0.115, 0.20, 0.215), (0.55, 0.265, 0.12), (0.155, 0.145, 0.15), (0.10, 0.075, 0.06)


class Figure:
    """The shaped figure in metres, feet on the ground, with its rig and the standard shapes."""

    def __init__(
        self, data: Path, likeness: Mapping[str, float] = LIKENESS, rest: Mapping[str, float] | None = None
    ) -> None:
        self.base: Base = read_base(data)
        count = len(self.base.points)
        points = self.base.points.copy()
        for name, weight in likeness.items():
            points += weight * read_target(data / f"mpfb2/targets/{name}.target.gz", count)
        rig = read_rig(data, self.base, points)
        body = np.unique(self.base.faces["body"][0])
        ground = points[body, 1].min()
        self.points = (points - [0, ground, 0]) * 0.1
        self.rig = Rig(rig.names, rig.parents, (rig.heads - [0, ground, 0]) * 0.1, rig.weights)
        self.shapes = {s: read_target(data / f"faceunits01/targets/faceunits/{s}.target", count) * 0.1 for s in SHAPES}
        for shape, weight in (rest or {}).items():
            self.points += weight * self.shapes[shape]

    def weight(self, *joints: str) -> np.ndarray:
        """(vertices,) how much the joints hold."""
        return self.rig.weights[:, [self.rig.names.index(j) for j in joints]].sum(axis=1)

    def group(self, *names: str) -> tuple[np.ndarray, np.ndarray]:
        """Quads and uv quads of groups together."""
        quads = np.concatenate([self.base.faces[n][0] for n in names])
        return quads, np.concatenate([self.base.faces[n][1] for n in names])

    def piece(self, quads: np.ndarray, uv_quads: np.ndarray, material: str, *, points: np.ndarray | None = None,
              uv: np.ndarray | None = None, shapes: tuple[str, ...] = (), whole: np.ndarray | None = None,
              weights: np.ndarray | None = None, moved: Mapping[str, np.ndarray] | None = None) -> Piece:  # fmt: skip
        """A primitive; `whole` are the quads that normals are taken over, so that seams between parts do not show; moved: the shapes'
        offsets where they are not the figure's own.
        """
        at = self.points if points is None else points
        around = quads if whole is None else whole
        surface = drawn(quads, uv_quads, self.base.uv if uv is None else uv)
        rest = normals(at, around)
        made = {}
        for shape in shapes:
            offset = (moved or self.shapes)[shape]
            turned = normals(at + offset, around) - rest
            made[shape] = (offset[surface.source], turned[surface.source])
        held = self.rig.weights if weights is None else weights
        return Piece(surface, at[surface.source], rest[surface.source], held[surface.source], material, made)


def crop_uv(uv: np.ndarray, uv_quads: np.ndarray) -> np.ndarray:
    """The uv of the quads spread over the whole texture; others are moved along."""
    used = uv[np.unique(uv_quads)]
    low, size = used.min(axis=0) - 0.004, np.ptp(used, axis=0).max() + 0.008
    return (uv - low) / size


def mask(data: Path, name: str, uv: np.ndarray, crop: np.ndarray, size: int) -> np.ndarray:
    """A mask painted for the base figure's uv, resampled to a cropped texture (size, size) 0..1."""
    image = np.asarray(Image.open(data / f"mpfb2/textures/mpfb_{name}.jpg").convert("L"), np.float64) / 255
    # crop = (uv - low) / size is affine: solve it back from two of its points.
    a, b = uv.min(axis=0), uv.max(axis=0)
    ca, cb = crop.min(axis=0), crop.max(axis=0)
    scale = (b - a) / (cb - ca)
    x, y = np.meshgrid((np.arange(size) + 0.5) / size, 1 - (np.arange(size) + 0.5) / size)
    u, v = (x - ca[0]) * scale[0] + a[0], (y - ca[1]) * scale[1] + a[1]
    column = np.clip((u * image.shape[1]).astype(int), 0, image.shape[1] - 1)
    row = np.clip(((1 - v) * image.shape[0]).astype(int), 0, image.shape[0] - 1)
    return image[row, column]


def encoded(colour: np.ndarray, quality: int = 88) -> bytes:
    """JPEG of (h, w, 3) sRGB 0..1."""
    out = io.BytesIO()
    Image.fromarray((np.clip(colour, 0, 1) * 255).round().astype(np.uint8)).save(out, "JPEG", quality=quality)
    return out.getvalue()


def face_places(figure: Figure, lips: np.ndarray, where: np.ndarray, on: np.ndarray) -> paint.Face:
    """Where eyes, mouth and nose are."""
    eye = figure.points[np.unique(figure.base.faces["helper-l-eye"][0])].mean(axis=0)
    lip_points = where[(lips > 0.5) & on]
    front = lip_points[lip_points[:, 2] > np.median(lip_points[:, 2]) - 0.01]
    body = figure.points[np.unique(figure.base.faces["body"][0])]
    middle = body[(np.abs(body[:, 0]) < 0.004) & (body[:, 1] < eye[1]) & (body[:, 1] > front[:, 1].max())]
    nose = middle[np.argmax(middle[:, 2])]
    # The seam of the lips lies where the upper and lower lip meet: between the two fullest points.
    centre = front[np.abs(front[:, 0]) < 0.004]
    seam = float((centre[:, 1].min() + centre[:, 1].max()) / 2)
    return paint.Face(eye, np.array([0, seam, front[:, 2].max()]), float(np.abs(front[:, 0]).max()), nose)


def head_texture(figure: Figure, data: Path, quads: np.ndarray, uv_quads: np.ndarray, uv: np.ndarray, size: int
                 ) -> np.ndarray:  # fmt: skip
    """The painted head (size, size, 3)."""
    surface: Drawn = drawn(quads, uv_quads, uv)
    where, on = texel_positions(surface, figure.points, size)
    lips, lids, inside = (mask(data, n, figure.base.uv, uv, size) for n in ("lips", "eyelids", "inside-mouth"))
    face = face_places(figure, lips, where, on)
    colour = paint.skin(where, face, lips, lids, inside)
    colour = paint.brow_hairs(colour, where, on, face, 7)
    colour = paint.hair_line(colour, where, on, hood(where, face.eye), 8)
    colour[~on] = [0.6, 0.42, 0.35]
    return np.asarray(Image.fromarray((colour * 255).astype(np.uint8)).filter(ImageFilter.GaussianBlur(0.5))) / 255


def of_head(figure: Figure, quads: np.ndarray, below: float) -> np.ndarray:
    """(quads,) which belong to the head: what it and the neck hold from `below` metres under the lowest neck joint, and what moves."""
    held = figure.weight("head", "neck1", "neck2", "neck3", "eyeLeft", "eyeRight")
    moved = np.max([np.linalg.norm(v, axis=1) for v in figure.shapes.values()], axis=0) > 2e-5
    high = figure.points[:, 1] > figure.rig.heads[figure.rig.names.index("neck1"), 1] - below
    return (held[quads] > 0.02).all(axis=1) & high[quads].any(axis=1) | (
        moved[quads].any(axis=1) & high[quads].all(axis=1)
    )


def build(data: Path) -> bytes:
    """The character's file."""
    figure = Figure(data, rest=REST)
    out = Writer(figure.rig, "Odile", CREDIT)
    body_quads, body_uv = figure.group("body")
    is_head = of_head(figure, body_quads, 0.035)
    eye = figure.rig.heads[figure.rig.names.index("eyeLeft")]
    cover = hood(figure.points, eye)
    shell = np.unique(body_quads[is_head])
    # What lies well under the scarf is left out, so that nothing pokes through it; the neck stays whole.
    jaw = figure.points[mouth.vertices(figure, mouth.LOWER), 1].min() - 0.02
    is_head &= ~((cover[body_quads] > 0.030) & (figure.points[body_quads, 1] > jaw)).all(axis=1)
    head_quads, head_uv = body_quads[is_head], body_uv[is_head]
    uv = crop_uv(figure.base.uv, head_uv)
    texture = out.image(encoded(head_texture(figure, data, head_quads, head_uv, uv, 2048)), "image/jpeg")
    out.material("skin", (1, 1, 1), 0.62, texture)
    out.material("scarf", paint.linear(SCARF), 0.92, double=True)
    out.mesh("face", [
        figure.piece(head_quads, head_uv, "skin", uv=uv, shapes=SHAPES, whole=body_quads),
        scarf(figure, shell, eye),
    ], SHAPES)  # fmt: skip
    eyes(figure, out)
    lashes(figure, out)
    mouth_parts(figure, out)
    clothes(figure, out, body_quads, body_uv, is_head)
    return out.finish()


def eyes(figure: Figure, out: Writer, looks: tuple[str, ...] = LOOKS, iris: paint.Colour = paint.GREY_GREEN) -> None:
    """Two eyeballs with a painted iris, held by their own joints; looks: the targets that move them."""
    quads, uv_quads = figure.group("helper-l-eye", "helper-r-eye")
    left_quads, left_uv = figure.group("helper-l-eye")
    uv = crop_uv(figure.base.uv, left_uv)
    surface = drawn(left_quads, left_uv, uv)
    where, _ = texel_positions(surface, figure.points, 512)
    centre = figure.rig.heads[figure.rig.names.index("eyeLeft")]
    texture = out.image(encoded(paint.eye(where, centre, 11, iris), 92), "image/jpeg")
    out.material("eye", (1, 1, 1), 0.12, texture)
    # The right eye has places of its own in the base's uv; it takes the left one's by mirroring.
    right_quads, right_uv = figure.group("helper-r-eye")
    uv = uv.copy()
    middle = figure.points[left_quads.ravel()]
    for corner, coordinate in zip(right_quads.ravel(), right_uv.ravel(), strict=True):
        mirrored = figure.points[corner] * [-1, 1, 1]
        uv[coordinate] = uv[left_uv.ravel()[np.argmin(((middle - mirrored) ** 2).sum(axis=1))]]
    weights = np.zeros_like(figure.rig.weights)
    for group, joint in (("helper-l-eye", "eyeLeft"), ("helper-r-eye", "eyeRight")):
        weights[np.unique(figure.base.faces[group][0]), figure.rig.names.index(joint)] = 1
    out.mesh("eyes", [figure.piece(quads, uv_quads, "eye", uv=uv, shapes=looks, weights=weights)], looks)


def moving(figure: Figure, quads: np.ndarray) -> tuple[str, ...]:
    """The shapes that move any of these vertices."""
    used = np.unique(quads)
    return tuple(s for s in figure.shapes if np.abs(figure.shapes[s][used]).max() > 1e-4)


def lashes(figure: Figure, out: Writer) -> None:
    """Soft lashes that go with the lids, the lower ones faint."""
    groups = [f"helper-{s}-eyelashes-{n}" for s in "lr" for n in (1, 2)]
    quads, uv_quads = figure.group(*groups)
    eye = figure.rig.heads[figure.rig.names.index("eyeLeft")]
    upper = figure.points[quads].mean(axis=1)[:, 1] > eye[1]
    out.material("lash", paint.linear((0.20, 0.15, 0.13)), 0.9, double=True, alpha=0.42)
    out.material("lash below", paint.linear((0.24, 0.17, 0.15)), 0.9, double=True, alpha=0.13)
    shapes = moving(figure, quads)
    pieces = [
        figure.piece(quads[rows], uv_quads[rows], name, shapes=shapes)
        for rows, name in ((upper, "lash"), (~upper, "lash below"))
    ]
    out.mesh("lashes", pieces, shapes)


Names = tuple[str, str, str]


def mouth_parts(figure: Figure, out: Writer, names: Names = ("teethUpper", "teethLower", "tongue"), size: float = 1.0,
                back: float = 0.004, teeth: paint.Colour = (0.80, 0.74, 0.62), tongue: paint.Colour = (0.62, 0.29, 0.29)) -> None:  # fmt: skip
    """Teeth and tongue, each a mesh of its own; drawn from both sides, as arches are seen from within."""
    out.material("teeth", paint.linear(teeth), 0.35, double=True)
    out.material("tongue", paint.linear(tongue), 0.45, double=True)
    laid = mouth.lay(figure, size, back)
    for name, group, material in zip(
        names, (mouth.UPPER, mouth.LOWER, mouth.TONGUE), ("teeth", "teeth", "tongue"), strict=True
    ):
        quads, uv_quads = figure.group(group)
        moved = laid.shapes[group]
        piece = figure.piece(quads, uv_quads, material, points=laid.points, shapes=tuple(moved), moved=moved)
        out.mesh(name, [piece], tuple(moved))


def clothes(figure: Figure, out: Writer, body_quads: np.ndarray, body_uv: np.ndarray, is_head: np.ndarray,
            wool: paint.Colour = COAT, cloth: paint.Colour = TROUSERS, hand: paint.Colour = (0.74, 0.53, 0.43)) -> None:  # fmt: skip
    """Hands, a knitted coat, trousers, boots and a headscarf, as one mesh of several materials."""
    out.material("hands", paint.linear(hand), 0.7)
    out.material("trousers", paint.linear(cloth), 0.95)
    out.material("boots", paint.linear(BOOTS), 0.55)
    fingers = tuple(n for n in figure.rig.names if n.startswith(("hand", "thumb", "index", "middle", "ring", "little")))
    hands = (figure.weight(*fingers)[body_quads] > 0.25).all(axis=1)
    pieces = [figure.piece(body_quads[hands], body_uv[hands], "hands", whole=body_quads)]
    pieces += [coat(figure, out, wool), *legs(figure)]
    out.mesh("body", pieces)


def _inflated(figure: Figure, quads: np.ndarray, by: float, rounds: int) -> np.ndarray:
    points = smoothed(figure.points, quads, rounds)
    return points + by * normals(points, quads)


def coat(figure: Figure, out: Writer, wool: paint.Colour) -> Piece:
    """The loose upper body of the base, let out, with the upper part of its skirt as tails."""
    quads, uv_quads = figure.group("helper-tights")
    hips = figure.rig.heads[0, 1]
    middle = figure.points[quads].mean(axis=1)
    upper = middle[:, 1] > hips + 0.02
    skirt_quads, skirt_uv = figure.group("helper-skirt")
    tails = figure.points[skirt_quads].mean(axis=1)[:, 1] > hips - 0.24
    top, top_uv = quads[upper], uv_quads[upper]
    points = _inflated(figure, top, 0.013, 2)
    skirt = _inflated(figure, skirt_quads[tails], 0.022, 2)
    used = np.unique(skirt_quads[tails])
    points[used] = skirt[used]
    points = _collar(figure, points, np.unique(top))
    both, both_uv = np.concatenate([top, skirt_quads[tails]]), np.concatenate([top_uv, skirt_uv[tails]])
    uv = crop_uv(figure.base.uv, both_uv)
    where, _ = texel_positions(drawn(both, both_uv, uv), points, 1024)
    texture = out.image(encoded(paint.weave(where, wool, 0.011, 0.28), 80), "image/jpeg")
    out.material("coat", (1, 1, 1), 0.95, texture, double=True)
    return figure.piece(both, both_uv, "coat", points=points, uv=uv)


def _collar(figure: Figure, points: np.ndarray, coat_vertices: np.ndarray) -> np.ndarray:
    """The coat with its upper rim laid against the neck, so that nobody looks in between."""
    skin = np.unique(figure.base.faces["body"][0])
    normal = normals(figure.points, figure.base.faces["body"][0])
    rim = points[coat_vertices, 1].max()
    out = points.copy()
    tree = cKDTree(figure.points[skin])
    _, near = tree.query(points[coat_vertices])
    against = figure.points[skin[near]] + 0.0045 * normal[skin[near]]
    close = np.clip(1 - (rim - points[coat_vertices, 1]) / COLLAR, 0, 1) ** 0.6
    out[coat_vertices] += (against - points[coat_vertices]) * close[:, None]
    return out


def legs(figure: Figure) -> list[Piece]:
    """Trousers and boots."""
    quads, uv_quads = figure.group("helper-tights")
    hips = figure.rig.heads[0, 1]
    ankle = figure.rig.heads[figure.rig.names.index("footLeft"), 1]
    middle = figure.points[quads].mean(axis=1)[:, 1]
    trousers = (middle <= hips + 0.03) & (middle > ankle + 0.04)
    boots = middle <= ankle + 0.16
    loose = _inflated(figure, quads, 0.006, 1)
    return [
        figure.piece(quads[trousers], uv_quads[trousers], "trousers", points=loose),
        figure.piece(quads[boots], uv_quads[boots], "boots", points=loose + 0.007 * normals(loose, quads)),
    ]


COLLAR = 0.045  # metres over which the coat comes to the neck
BACK = np.array([0.0, 0.22, -0.9755])  # where the scarf's open side looks away from


def hood(points: np.ndarray, eye: np.ndarray) -> np.ndarray:
    """(...) metres behind the scarf's edge, a plane that leans from the hairline to under the chin; below 0 is face."""
    return (points - np.array([0.0, eye[1] + 0.048, eye[2] - 0.022])) @ BACK


def scarf(figure: Figure, shell: np.ndarray, eye: np.ndarray) -> Piece:
    """A cloth wrapped round the back of the head and the throat: a grid of rays from inside the head, let out over
    `shell` (vertices of head and neck), smoothed, with folds; it moves with the vertices under it.
    """
    rows, columns = 26, 72
    centre = np.array([0.0, eye[1] - 0.022, 0.0])
    centre[2] = eye[2] - 0.022 + (centre[1] - eye[1] - 0.048) * BACK[1] / -BACK[2]
    across = np.array([1.0, 0, 0])
    up = np.cross(BACK, across)
    polar = np.linspace(0.04, np.radians(91), rows)[:, None]
    around = np.linspace(0, 2 * np.pi, columns, endpoint=False)[None]
    rays = np.cos(polar)[..., None] * BACK + np.sin(polar)[..., None] * (
        np.cos(around)[..., None] * across + np.sin(around)[..., None] * up
    )
    away = figure.points[shell] - centre
    distance = np.linalg.norm(away, axis=1)
    near = rays @ (away / distance[:, None]).T
    reach = np.where(near > np.cos(np.radians(10)), distance, 0).max(axis=-1)
    reach = gaussian_filter(np.where(reach > 0, reach, np.median(reach)), (1.6, 1.6), mode=("nearest", "wrap"))
    low = np.clip((0.2 - rays[..., 1]) * 1.6, 0, 1)
    reach = np.minimum(reach, 0.150 - 0.036 * low)  # close about the neck: no wings toward the shoulders
    folds = 0.0020 * np.sin(around * 13 + polar * 5) + 0.0016 * np.sin(around * 7 - polar * 9)
    reach = reach + 0.0085 + folds * (0.25 + low)
    reach[-1] -= 0.005  # the hem is rolled in
    points = centre + rays * reach[..., None]
    grid = np.arange(rows * columns).reshape(rows, columns)
    right = np.roll(grid, -1, axis=1)
    quads = np.stack([grid[:-1], grid[1:], right[1:], right[:-1]], axis=-1).reshape(-1, 4)
    points = points.reshape(-1, 3)
    gaps = ((points[:, None] - figure.points[shell][None]) ** 2).sum(axis=-1)
    under = np.argsort(gaps, axis=1)[:, :12]
    held = figure.rig.weights[shell][under].mean(axis=1)
    rest = normals(points, quads)
    shapes = {}
    for shape, moved in figure.shapes.items():
        offset = moved[shell][under].mean(axis=1).reshape(rows, columns, 3)
        offset = gaussian_filter(offset, (1.5, 2.5, 0), mode=("nearest", "wrap", "nearest")).reshape(-1, 3)
        shapes[shape] = (offset, normals(points + offset, quads) - rest)
    uv = np.stack(np.broadcast_arrays(around / (2 * np.pi), polar / 2), axis=-1).reshape(-1, 2)
    return Piece(Drawn(np.arange(len(points)), uv, triangles(quads)), points, rest, held, "scarf", shapes)


if __name__ == "__main__":
    build_from_data(__doc__, build)
