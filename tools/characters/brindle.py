"""Brindle, a dock sprite with a large head and names of its own: `python -m tools.characters.brindle --data FOLDER --out
dynaface/assets/characters/brindle.glb`. FOLDER as for Odile.
"""

from pathlib import Path

import numpy as np

from dynaface.core.shapes.standard import SHAPES
from tools.characters import odile, paint
from tools.characters.base import read_target
from tools.characters.command import build_from_data
from tools.characters.export import Piece, Writer
from tools.characters.odile import Figure, crop_uv, encoded, eyes, face_places, mask
from tools.characters.surface import Drawn, drawn, noise, normals, texel_positions, triangles

# Both sides of a target: "{s}" stands for l and r.
_BOTH = {"ears/{s}-ear-scale-decr": 1.0, "ears/{s}-ear-flap-decr": 1.0, "ears/{s}-ear-wing-decr": 1.0,
         "ears/{s}-ear-shape-round": 1.0, "eyes/{s}-eye-scale-incr": 1.5, "eyes/{s}-eye-trans-out": 0.5,
         "cheek/{s}-cheek-volume-incr": 0.7}  # fmt: skip
LIKENESS = {
    "macrodetails/asian-female-child": 0.4, "macrodetails/african-female-child": 0.3,
    "macrodetails/caucasian-male-child": 0.3,
    "macrodetails/universal-female-child-averagemuscle-averageweight": 0.7,
    "macrodetails/universal-female-child-averagemuscle-minweight": 0.3,
    "nose/nose-scale-vert-decr": 0.7, "nose/nose-scale-depth-decr": 0.6, "nose/nose-width1-incr": 0.4,
    "nose/nose-point-up": 0.8, "mouth/mouth-scale-horiz-incr": 1.3, "mouth/mouth-upperlip-height-decr": 0.4,
    "head/head-round": 0.7, "head/head-scale-horiz-incr": 0.5, "chin/chin-width-decr": 0.7, "chin/chin-height-decr": 0.4,
    "forehead/forehead-scale-vert-incr": 0.5,
    **{name.format(s=s): w for name, w in _BOTH.items() for s in "lr"},
}  # fmt: skip
# The rigger's own words; port is the sprite's left, starboard its right. "" is a shape that the sprite lacks.
WORDS = {
    "jawOpen": "gawp", "jawLeft": "chaw P", "jawRight": "chaw S", "jawForward": "", "mouthClose": "clamp",
    "mouthFunnel": "hoot", "mouthLeft": "skew P", "mouthRight": "skew S", "mouthRollLower": "tuck under",
    "mouthRollUpper": "tuck over", "mouthShrugLower": "pout", "mouthShrugUpper": "sniff up", "tongueOut": "",
    "mouthDimple": "", "mouthSmile": "grin", "mouthFrown": "droop", "mouthStretch": "grimace", "mouthPress": "pinch",
    "mouthLowerDown": "bare below", "mouthUpperUp": "bare above", "noseSneer": "wrinkle", "cheekSquint": "",
    "eyeBlink": "shutter", "eyeSquint": "narrow", "eyeWide": "goggle", "eyeLookUp": "peer high", "eyeLookDown": "peer low",
    "eyeLookIn": "peer near", "eyeLookOut": "peer far", "browDown": "glower", "browOuterUp": "perk",
}  # fmt: skip
HALVED = {"browInnerUp": "fret", "cheekPuff": "bilge", "mouthPucker": "smooch"}
SKIN, DARK, LIP = np.array([0.44, 0.51, 0.66]), np.array([0.19, 0.23, 0.40]), np.array([0.43, 0.31, 0.42])
COAT, TROUSERS, KELP = (0.46, 0.34, 0.17), (0.16, 0.18, 0.22), (0.36, 0.32, 0.13)
FIN = (0.34, 0.30, 0.52)
HEAD, BODY = 1.30, 0.62  # what the head and the rest are scaled by


def word(shape: str) -> str:
    """The sprite's word for a shape, "" for one that it lacks."""
    stem = shape.removesuffix("Left").removesuffix("Right")
    if shape in WORDS:
        return WORDS[shape]
    return f"{WORDS[stem]} {'P' if shape.endswith('Left') else 'S'}" if WORDS.get(stem) else ""


class Sprite(Figure):
    """The figure with a large head on a small body, and the sprite's own targets under `shapes`."""

    def __init__(self, data: Path) -> None:
        super().__init__(data, LIKENESS)
        self.standard = dict(self.shapes)
        held = self.weight("head", "neck2", "neck3", "eyeLeft", "eyeRight")[:, None]
        # What the rig does not hold, such as teeth and lashes, belongs to the head that it lies in.
        free = self.rig.weights.sum(axis=1) < 0.5
        neck = self.rig.heads[self.rig.names.index("neck2")]
        held[free & (self.points[:, 1] > neck[1])] = 1
        scale = held * HEAD + (1 - held) * BODY
        self.points = self._sized(self.points, held, neck)
        joint = np.array([n.startswith(("head", "eye", "neck3")) for n in self.rig.names], float)[:, None]
        self.rig.heads[:] = self._sized(self.rig.heads, joint, neck)
        moved = {s: o * scale for s, o in self.standard.items()}
        self._flatten_ears(data)
        side = np.clip(self.points[:, 0] / 0.012 * 0.5 + 0.5, 0, 1)[:, None]
        self.shapes = {word(s): moved[s] for s in SHAPES if s not in HALVED and word(s)}
        for shape, name in HALVED.items():
            self.shapes |= {f"{name} P": moved[shape] * side, f"{name} S": moved[shape] * (1 - side)}
        self.shapes |= self._own(moved)

    def _sized(self, points: np.ndarray, held: np.ndarray, neck: np.ndarray) -> np.ndarray:
        return (1 - held) * points * BODY + held * (neck * BODY + (points - neck) * HEAD)

    def _flatten_ears(self, data: Path) -> None:
        """The ears lie flat against the head: fins stand in their place."""
        for letter in "lr":
            grown = np.linalg.norm(
                read_target(data / f"mpfb2/targets/ears/{letter}-ear-scale-incr.target.gz", len(self.points)), axis=1
            )
            share = np.clip(grown / grown.max() * 3, 0, 1)
            rim = self.points[(share > 0) & (share < 0.4)]
            # Toward the surface through its rim: folds lose their depth, nothing is drawn together.
            flat = np.column_stack([rim[:, 1:], np.ones(len(rim))])
            plane = np.linalg.lstsq(flat, rim[:, 0], rcond=None)[0]
            level = np.column_stack([self.points[:, 1:], np.ones(len(self.points))]) @ plane
            self.points[:, 0] += 0.97 * share * (level - self.points[:, 0])

    def _own(self, moved: dict[str, np.ndarray]) -> dict[str, np.ndarray]:
        """What no standard shape does: ears, and a correction for a grin with the mouth open."""
        eye = self.rig.heads[self.rig.names.index("eyeLeft")]
        out = {}
        for name, sign in (("P", 1), ("S", -1)):
            ear = np.clip((sign * self.points[:, 0] - 0.085) / 0.05, 0, 1) * (np.abs(self.points[:, 1] - eye[1]) < 0.12)
            ear = ear * (self.weight("head") > 0.9)
            out[f"ear flick {name}"] = ear[:, None] * np.array([sign * 0.004, 0.026, -0.012])
        both = np.linalg.norm(moved["jawOpen"], axis=1) * np.linalg.norm(
            moved["mouthSmileLeft"] + moved["mouthSmileRight"], axis=1)  # fmt: skip
        out["gawp and grin"] = (both / both.max())[:, None] * np.array([0.0, 0.006, -0.004])
        return out


def texture(
    figure: Sprite, data: Path, quads: np.ndarray, uv_quads: np.ndarray, uv: np.ndarray, size: int
) -> np.ndarray:
    """The painted head (size, size, 3): the blue of dusk, freckled, darker on top and round the eyes."""
    surface: Drawn = drawn(quads, uv_quads, uv)
    where, on = texel_positions(surface, figure.points, size)
    lips, lids, inside = (mask(data, n, figure.base.uv, uv, size) for n in ("lips", "eyelids", "inside-mouth"))
    face = face_places(figure, lips, where, on)
    colour = np.broadcast_to(SKIN, where.shape).copy()
    colour *= 1 + 0.10 * noise(where, 0.020, 1)[..., None] + 0.05 * noise(where, 0.006, 2)[..., None]
    top = np.clip((where[..., 1] - face.eye[1] - 0.02) / 0.10, 0, 1) + 0.5 * np.clip(
        (face.eye[2] - 0.07 - where[..., 2]) / 0.08, 0, 1
    )
    colour = paint.mix(colour, tuple(DARK), 0.75 * top)
    colour = freckled(colour, where, face)
    cheek = face.eye + [0.014, -0.050, 0.004]
    colour = paint.mix(colour, (0.62, 0.46, 0.58), 0.50 * paint.blob_pair(where, cheek, np.array([0.024, 0.018, 0.04])))
    colour = paint.mix(colour, (0.60, 0.47, 0.60), 0.4 * paint.blob(where, face.nose, np.array([0.018, 0.016, 0.03])))
    socket = face.eye + [0.001, -0.002, 0.012]
    colour = paint.mix(
        colour, (0.20, 0.22, 0.38), 0.55 * paint.blob_pair(where, socket, np.array([0.031, 0.021, 0.04]))
    )
    colour = paint.mix(colour, (0.15, 0.16, 0.30), 0.55 * lids)
    colour = paint.mix(colour, tuple(LIP), 0.8 * lips)
    colour = paint.mix(colour, (0.25, 0.10, 0.13), 0.92 * inside)
    colour[~on] = SKIN
    return np.clip(colour, 0, 1)


def freckled(colour: np.ndarray, where: np.ndarray, face: paint.Face) -> np.ndarray:
    """Round pale freckles in a mask over nose, cheeks and brow, and dark ones on the crown."""
    rng = np.random.default_rng(23)
    front = np.clip((where[..., 2] - face.eye[2] + 0.05) / 0.04, 0, 1)
    for _ in range(150):
        at = face.eye + [rng.normal(0.012, 0.034), rng.normal(-0.012, 0.040), 0]
        size = rng.uniform(0.0011, 0.0028)
        side = np.where(rng.uniform() < 0.5, 1, -1)
        away = np.hypot(where[..., 0] - side * at[0], where[..., 1] - at[1])
        colour = paint.mix(colour, (0.74, 0.77, 0.86), 0.55 * front * np.clip((size - away) / 0.0006 + 0.5, 0, 1))
    spots = np.clip((noise(where, 0.008, 5) - 0.42) * 6, 0, 1) * np.clip(
        (where[..., 1] - face.eye[1] - 0.02) / 0.06, 0, 1
    )
    return paint.mix(colour, (0.13, 0.16, 0.32), 0.6 * spots)


def fins(figure: Sprite) -> Piece:
    """A fin on each side in place of an ear, laid back along the head: rays with a web between them, scalloped at the edge; each
    has a flick of its own.
    """
    head = figure.rig.names.index("head")
    eye = figure.rig.heads[figure.rig.names.index("eyeLeft")]
    body = np.unique(figure.base.faces["body"][0])
    skull = body[figure.rig.weights[body, head] > 0.9]
    points, quads, flick = [], [], {"P": [], "S": []}
    rays, steps = 7, 9
    for name, sign in (("P", 1), ("S", -1)):
        side = figure.points[skull]
        root_at = np.array([0.0, eye[1] - 0.020, eye[2] - 0.082])
        start = sum(len(p) for p in points)
        grid = np.zeros((rays * 4 - 3, steps, 3))
        for row in range(len(grid)):
            share = row / (len(grid) - 1)
            at = root_at + [0, 0.034 * (1 - 2 * share), -0.006 * np.cos(np.pi * (share - 0.5))]
            near = side[np.argmin(((side[:, 1:] - at[1:]) ** 2).sum(axis=1) - 0.02 * sign * side[:, 0])]
            root = np.array([near[0] - sign * 0.004, at[1], at[2]])
            length = (0.062 + 0.030 * np.sin(np.pi * (0.25 + 0.6 * share))) * (1.0 if row % 4 == 0 else 0.88)
            rise = np.radians(38 - 62 * share)
            way = np.array([sign * 0.34, np.sin(rise), -np.cos(rise)])
            way /= np.linalg.norm(way)
            along = np.linspace(0, 1, steps)[:, None]
            ridge = 0.0035 * np.cos(2 * np.pi * row / 4) * np.sin(np.pi * np.clip(along, 0, 1))
            grid[row] = root + along * length * way + np.array([sign, 0, 0]) * (ridge + 0.010 * along**2)
        points.append(grid.reshape(-1, 3))
        index = start + np.arange(len(grid) * steps).reshape(len(grid), steps)
        quads.append(np.stack([index[:-1, :-1], index[1:, :-1], index[1:, 1:], index[:-1, 1:]], axis=-1).reshape(-1, 4))
        along = np.tile(np.linspace(0, 1, steps), len(grid))
        moved = (along**1.5)[:, None] * np.array([sign * 0.020, 0.020, 0.006])
        for other in flick:
            flick[other].append(moved if other == name else np.zeros_like(moved))
    place, faces = np.concatenate(points), np.concatenate(quads)
    weights = np.zeros((len(place), len(figure.rig.names)))
    weights[:, head] = 1
    rest = normals(place, faces)
    shapes = {
        f"ear flick {n}": (np.concatenate(f), normals(place + np.concatenate(f), faces) - rest)
        for n, f in flick.items()
    }
    return Piece(
        Drawn(np.arange(len(place)), np.zeros((len(place), 2)), triangles(faces)), place, rest, weights, "fin", shapes
    )


def kelp(figure: Sprite) -> Piece:
    """Kelp for hair: long wavy ribbons that fall back and to the sides from the crown."""
    rng = np.random.default_rng(9)
    head = figure.rig.names.index("head")
    body = np.unique(figure.base.faces["body"][0])
    crown = body[(figure.rig.weights[body, head] > 0.9)]
    top = figure.points[crown]
    rows, points, quads = 9, [], []
    roots = []
    while len(roots) < 90:
        at = np.array([rng.uniform(-0.075, 0.075), 0, rng.uniform(-0.13, 0.045)])
        near = crown[np.argmin(((top[:, [0, 2]] - at[[0, 2]]) ** 2).sum(axis=1) - 0.02 * top[:, 1])]
        if figure.points[near, 1] > top[:, 1].max() - 0.085:
            roots.append(figure.points[near])
    for root in roots:
        length, bend, twist = rng.uniform(0.13, 0.24), rng.uniform(0.9, 1.5), rng.uniform(-0.6, 0.6)
        out = np.array([root[0] * 5 + rng.normal(0, 0.2), 0.55, -0.9 + rng.normal(0, 0.2)])
        out /= np.linalg.norm(out)
        along = np.linspace(0, 1, rows)[:, None]
        fall = np.array([root[0] * 4, -1.0, -0.25]) * bend
        spine = root - 0.006 * out + length * (along * out + 0.5 * along**2 * fall)
        across = np.array([np.cos(twist), 0, np.sin(twist)])
        width = 0.0125 * np.sin(np.pi * (0.12 + 0.88 * along)) * (1 + 0.25 * np.sin(along * 19 + twist * 9))
        start = sum(len(p) for p in points)
        points.append(np.concatenate([spine - across * width, spine + across * width]))
        quads += [[start + i, start + i + 1, start + rows + i + 1, start + rows + i] for i in range(rows - 1)]
    place, faces = np.concatenate(points), np.array(quads)
    weights = np.zeros((len(place), len(figure.rig.names)))
    weights[:, head] = 1
    return Piece(
        Drawn(np.arange(len(place)), np.zeros((len(place), 2)), triangles(faces)),
        place,
        normals(place, faces),
        weights,
        "kelp",
    )


def build(data: Path) -> bytes:
    """The character's file."""
    figure = Sprite(data)
    out = Writer(figure.rig, "Brindle", odile.CREDIT)
    body_quads, body_uv = figure.group("body")
    is_head = odile.of_head(figure, body_quads, 0.030)
    quads, quads_uv = body_quads[is_head], body_uv[is_head]
    uv = crop_uv(figure.base.uv, quads_uv)
    painted = out.image(encoded(texture(figure, data, quads, quads_uv, uv, 1024)), "image/jpeg")
    out.material("skin", (1, 1, 1), 0.5, painted)
    out.material("kelp", paint.linear(KELP), 0.7, double=True)
    names = tuple(figure.shapes)
    out.mesh("mug", [figure.piece(quads, quads_uv, "skin", uv=uv, shapes=names, whole=body_quads)], names)
    out.material("fin", paint.linear(FIN), 0.55, double=True)
    out.mesh("crest", [kelp(figure)])
    flicks = tuple(n for n in names if n.startswith("ear flick"))
    out.mesh("fins", [fins(figure)], flicks)
    eyes(figure, out, tuple(n for n in names if n.startswith("peer")), (0.93, 0.62, 0.10))
    odile.mouth_parts(
        figure, out, ("fangs over", "fangs under", "lick"), 0.78, 0.008, (0.86, 0.83, 0.70), (0.35, 0.22, 0.38)
    )
    odile.clothes(figure, out, body_quads, body_uv, is_head, COAT, TROUSERS, tuple(SKIN))
    return out.finish()


if __name__ == "__main__":
    build_from_data(__doc__, build)
