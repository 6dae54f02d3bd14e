"""Brindle, a dock sprite with a large head and names of its own: `python -m tools.characters.brindle --data FOLDER --out
dynaface/assets/characters/brindle.glb`. FOLDER as for Odile.
"""

from pathlib import Path

import numpy as np

from dynaface.core.shapes.standard import SHAPES
from tools.characters import odile, paint
from tools.characters.command import build_from_data
from tools.characters.export import Piece, Writer
from tools.characters.odile import Figure, crop_uv, encoded, eyes, face_places, mask
from tools.characters.surface import Drawn, drawn, noise, normals, texel_positions, triangles

# Both sides of a target: "{s}" stands for l and r.
_BOTH = {"ears/{s}-ear-shape-pointed": 1.4, "ears/{s}-ear-scale-incr": 1.5, "ears/{s}-ear-scale-vert-incr": 0.9,
         "ears/{s}-ear-wing-incr": 1.2, "eyes/{s}-eye-scale-incr": 1.5, "eyes/{s}-eye-trans-out": 0.5,
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
SKIN, DARK, LIP = np.array([0.44, 0.60, 0.52]), np.array([0.20, 0.36, 0.35]), np.array([0.38, 0.30, 0.36])
COAT, TROUSERS, KELP = (0.42, 0.30, 0.15), (0.16, 0.19, 0.20), (0.10, 0.20, 0.13)
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
        side = np.clip(self.points[:, 0] / 0.012 * 0.5 + 0.5, 0, 1)[:, None]
        self.shapes = {word(s): moved[s] for s in SHAPES if s not in HALVED and word(s)}
        for shape, name in HALVED.items():
            self.shapes |= {f"{name} P": moved[shape] * side, f"{name} S": moved[shape] * (1 - side)}
        self.shapes |= self._own(moved)

    def _sized(self, points: np.ndarray, held: np.ndarray, neck: np.ndarray) -> np.ndarray:
        return (1 - held) * points * BODY + held * (neck * BODY + (points - neck) * HEAD)

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
    """The painted head (size, size, 3): mottled like a harbour stone, darker on top and round the eyes."""
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
    spots = (noise(where, 0.011, 5) > 0.32) * np.clip((where[..., 1] - face.eye[1] + 0.03) / 0.06, 0, 1)
    colour = paint.mix(colour, (0.26, 0.42, 0.36), 0.5 * spots)
    cheek = face.eye + [0.014, -0.050, 0.004]
    colour = paint.mix(colour, (0.66, 0.50, 0.42), 0.45 * paint.blob_pair(where, cheek, np.array([0.024, 0.018, 0.04])))
    colour = paint.mix(colour, (0.62, 0.52, 0.44), 0.4 * paint.blob(where, face.nose, np.array([0.018, 0.016, 0.03])))
    socket = face.eye + [0.001, -0.002, 0.012]
    colour = paint.mix(
        colour, (0.19, 0.31, 0.31), 0.55 * paint.blob_pair(where, socket, np.array([0.031, 0.021, 0.04]))
    )
    colour = paint.mix(colour, (0.15, 0.24, 0.25), 0.55 * lids)
    ears = np.clip((np.abs(where[..., 0]) - 0.11) / 0.06, 0, 1)
    colour = paint.mix(colour, (0.60, 0.50, 0.44), 0.45 * ears)
    colour = paint.mix(colour, tuple(LIP), 0.8 * lips)
    colour = paint.mix(colour, (0.25, 0.10, 0.13), 0.92 * inside)
    colour = paint.brow_hairs(colour, where, on, face, 17)
    colour[~on] = SKIN
    return np.clip(colour, 0, 1)


def kelp(figure: Sprite) -> Piece:
    """A crest of kelp strands from the crown: ribbons that curve up and back."""
    rng = np.random.default_rng(9)
    head = figure.rig.names.index("head")
    body = np.unique(figure.base.faces["body"][0])
    crown = body[(figure.rig.weights[body, head] > 0.9)]
    top = figure.points[crown]
    rows, points, quads = 9, [], []
    roots = []
    while len(roots) < 46:
        at = np.array([rng.uniform(-0.075, 0.075), 0, rng.uniform(-0.13, 0.045)])
        near = crown[np.argmin(((top[:, [0, 2]] - at[[0, 2]]) ** 2).sum(axis=1) - 0.02 * top[:, 1])]
        if figure.points[near, 1] > top[:, 1].max() - 0.075:
            roots.append(figure.points[near])
    for root in roots:
        length, bend, twist = rng.uniform(0.07, 0.15), rng.uniform(0.5, 1.4), rng.uniform(-0.6, 0.6)
        out = np.array([root[0] * 6 + rng.normal(0, 0.2), 1.0, rng.normal(-0.35, 0.2)])
        out /= np.linalg.norm(out)
        along = np.linspace(0, 1, rows)[:, None]
        fall = np.array([root[0] * 3, -1.0, -0.5]) * bend
        spine = root - 0.006 * out + length * (along * out + 0.5 * along**2 * fall)
        across = np.array([np.cos(twist), 0, np.sin(twist)])
        width = 0.009 * np.sin(np.pi * (0.12 + 0.88 * along)) * (1 + 0.25 * np.sin(along * 19 + twist * 9))
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
    is_head = odile.of_head(figure, body_quads, 0.004)
    quads, quads_uv = body_quads[is_head], body_uv[is_head]
    uv = crop_uv(figure.base.uv, quads_uv)
    painted = out.image(encoded(texture(figure, data, quads, quads_uv, uv, 1024)), "image/jpeg")
    out.material("skin", (1, 1, 1), 0.5, painted)
    out.material("kelp", paint.linear(KELP), 0.7, double=True)
    names = tuple(figure.shapes)
    out.mesh("mug", [figure.piece(quads, quads_uv, "skin", uv=uv, shapes=names, whole=body_quads)], names)
    out.mesh("crest", [kelp(figure)])
    eyes(figure, out, tuple(n for n in names if n.startswith("peer")), (0.93, 0.62, 0.10))
    for name, group, material, colour in (("fangs over", "helper-upper-teeth", "teeth", (0.86, 0.83, 0.70)),
                                          ("fangs under", "helper-lower-teeth", "teeth", (0.86, 0.83, 0.70)),
                                          ("lick", "helper-tongue", "tongue", (0.35, 0.22, 0.38))):  # fmt: skip
        if material not in out.materials:
            out.material(material, paint.linear(colour), 0.4)
        parts, parts_uv = figure.group(group)
        if material == "teeth":  # the hind ones would stick out of so small a chin
            front = figure.points[parts].mean(axis=1)[:, 2]
            parts, parts_uv = parts[front > front.max() - 0.026], parts_uv[front > front.max() - 0.026]
        shapes = odile.moving(figure, parts)
        at = figure.points - ([0, 0, 0.004] if name == "fangs over" else [0, 0.003, 0.006])
        out.mesh(name, [figure.piece(parts, parts_uv, material, points=at, shapes=shapes)], shapes)
    odile.clothes(figure, out, body_quads, body_uv, is_head, COAT, TROUSERS, tuple(SKIN))
    return out.finish()


if __name__ == "__main__":
    build_from_data(__doc__, build)
