"""The general human head that footage is solved with and simulated from.

`python -m tools.characters.general_head --data FOLDER --out dynaface/assets/heads/general.npz`; FOLDER as for Odile.
"""

import io
from pathlib import Path

import numpy as np

from dynaface.core.shapes.standard import SHAPES
from tools.characters import paint
from tools.characters.base import read_target
from tools.characters.command import build_from_data
from tools.characters.odile import Figure, crop_uv, face_places, mask
from tools.characters.surface import drawn, normals, texel_positions, triangles

ORIGINS = ("caucasian", "african", "asian")
# An average grown-up, so that every likeness is a small step away.
AVERAGE = {
    **{f"macrodetails/{o}-{s}-young": 0.125 for o in ORIGINS for s in ("female", "male")},
    **{f"macrodetails/{o}-{s}-old": 0.125 / 3 for o in ORIGINS for s in ("female", "male")},
    **{f"macrodetails/universal-{s}-{a}-averagemuscle-averageweight": w
       for s in ("female", "male") for a, w in (("young", 0.375), ("old", 0.125))},
}  # fmt: skip
TEXTURE = 768


def _signed(name: str, one: str = "incr", other: str = "decr") -> dict[str, float]:
    return {f"{name}-{one}": 0.5, f"{name}-{other}": -0.5}


def _sides(folder: str, name: str, one: str = "incr", other: str = "decr") -> dict[str, float]:
    return {k: v for side in "lr" for k, v in _signed(f"{folder}/{side}-{name}", one, other).items()}


def likeness_modes() -> dict[str, dict[str, float]]:
    """Name -> targets with weights: the ways in which heads differ, both sides of the average."""
    whole = {
        "sex": {f"macrodetails/{o}-{s}-young": w / 3 for o in ORIGINS for s, w in (("male", 0.5), ("female", -0.5))}
        | {f"macrodetails/universal-{s}-young-averagemuscle-averageweight": w
           for s, w in (("male", 0.5), ("female", -0.5))},
        "age": {f"macrodetails/{o}-{s}-{a}": w / 6 for o in ORIGINS for s in ("male", "female")
                for a, w in (("old", 0.5), ("young", -0.5))},
        "origin 1": {f"macrodetails/{o}-{s}-young": w / 2 for s in ("male", "female")
                     for o, w in (("african", 0.6), ("caucasian", -0.3), ("asian", -0.3))},
        "origin 2": {f"macrodetails/{o}-{s}-young": w / 2 for s in ("male", "female")
                     for o, w in (("asian", 0.6), ("caucasian", -0.6))},
        "weight": {f"macrodetails/universal-{s}-young-averagemuscle-{a}weight": w / 2 for s in ("male", "female")
                   for a, w in (("max", 0.5), ("min", -0.5))},
    }  # fmt: skip
    local = {n: _signed(f"nose/nose-{n.split(' ')[1]}") for n in (
        "nose scale-depth", "nose scale-horiz", "nose scale-vert", "nose hump", "nose width1", "nose width2", "nose width3",
        "nose volume", "nose point-width")}  # fmt: skip
    local |= {"nose up": _signed("nose/nose-trans", "up", "down"), "nose point": _signed("nose/nose-point", "up", "down"),
              "nose base": _signed("nose/nose-base", "up", "down")}  # fmt: skip
    local |= {f"mouth {n}": _signed(f"mouth/mouth-{n}") for n in (
        "scale-horiz", "scale-vert", "scale-depth", "upperlip-height", "lowerlip-height", "upperlip-volume",
        "lowerlip-volume")}  # fmt: skip
    local |= {"mouth up": _signed("mouth/mouth-trans", "up", "down"), "mouth angles": _signed("mouth/mouth-angles", "up", "down")}  # fmt: skip
    local |= {f"chin {n}": _signed(f"chin/chin-{n}") for n in ("bones", "height", "jaw-drop", "prognathism", "prominent", "width")}  # fmt: skip
    local |= {f"cheek {n}": _sides("cheek", f"cheek-{n}") for n in ("bones", "inner", "volume")}
    local |= {f"head {n}": _signed(f"head/head-{n}") for n in ("scale-depth", "scale-horiz", "scale-vert", "fat")}
    local |= {f"head {n}": {f"head/head-{n}": 0.5} for n in ("oval", "round", "square", "rectangular", "diamond", "triangular")}  # fmt: skip
    local |= {"forehead": _signed("forehead/forehead-scale-vert"), "temple": _signed("forehead/forehead-temple")}
    local |= {f"eye {n}": _sides("eyes", f"eye-{n}") for n in ("scale", "height1", "height2", "height3")}
    local |= {"eye up": _sides("eyes", "eye-trans", "up", "down"), "eye apart": _sides("eyes", "eye-trans", "out", "in"),
              "eye corner1": _sides("eyes", "eye-corner1", "up", "down"),
              "eye corner2": _sides("eyes", "eye-corner2", "up", "down"),
              "brow up": _signed("eyebrows/eyebrows-trans", "up", "down"),
              "brow angle": _signed("eyebrows/eyebrows-angle", "up", "down")}  # fmt: skip
    return whole | local


def build(data: Path) -> bytes:
    """The head's file: see dynaface/formats/head_file.py for what is in it."""
    figure = Figure(data, AVERAGE)
    count = len(figure.points)
    body, body_uv = figure.group("body")
    held = figure.weight("head", "neck1", "neck2", "neck3", "eyeLeft", "eyeRight")
    collar = figure.rig.heads[figure.rig.names.index("neck1"), 1] - 0.01
    face = (held[body] > 0.02).all(axis=1) & (figure.points[body, 1] > collar).all(axis=1)
    uv = crop_uv(figure.base.uv, body_uv[face])
    groups = {"skin": (body[face], body_uv[face])} | {
        name: figure.group(*parts)
        for name, parts in {
            "eyes": ("helper-l-eye", "helper-r-eye"), "lashes": ("helper-l-eyelashes-1", "helper-l-eyelashes-2",
                                                                 "helper-r-eyelashes-1", "helper-r-eyelashes-2"),
            "teeth": ("helper-upper-teeth", "helper-lower-teeth"), "tongue": ("helper-tongue",),
        }.items()
    }  # fmt: skip
    kept = np.unique(np.concatenate([q.ravel() for q, _ in groups.values()]))
    place = np.full(count, -1)
    place[kept] = np.arange(len(kept))
    surface = drawn(*groups["skin"], uv)
    corner_uv = np.concatenate([surface.uv, np.zeros((len(kept), 2))])
    tris, tri_uv, parts = [place[surface.source[surface.tris]]], [surface.tris], [np.zeros(len(surface.tris))]
    for number, name in enumerate(("eyes", "lashes", "teeth", "tongue"), 1):
        plain = place[triangles(groups[name][0])]
        tris.append(plain)
        tri_uv.append(plain + len(surface.uv))
        parts.append(np.full(len(plain), number))
    centre = figure.points[np.unique(groups["eyes"][0])].mean(axis=0)
    eyes = np.array([figure.points[np.unique(figure.base.faces[f"helper-{s}-eye"][0])].mean(axis=0) for s in "lr"])
    modes = likeness_modes()
    moved = {
        n: np.asarray(sum(w * read_target(data / f"mpfb2/targets/{t}.target.gz", count) * 0.1 for t, w in m.items()))
        for n, m in modes.items()
    }
    # A likeness changes the face, not the height: the middle of the eyes stays.
    moved = {n: m - m[np.unique(groups["eyes"][0])].mean(axis=0) for n, m in moved.items()}
    arrays = {
        "points": (figure.points[kept] - centre).astype(np.float32),
        "normals": normals(figure.points, body)[kept].astype(np.float32),
        "triangles": np.concatenate(tris).astype(np.int32),
        "triangle_uv": np.concatenate(tri_uv).astype(np.int32),
        "part": np.concatenate(parts).astype(np.int8),
        "uv": corner_uv.astype(np.float32),
        "eyes": (eyes - centre).astype(np.float32),
        # Hundredths of a millimetre keep small offsets exact enough in 16 bits.
        "shapes": np.stack([figure.shapes[s][kept] * 1e5 for s in SHAPES]).round().astype(np.int16),
        "modes": np.stack([m[kept] * 1e5 for m in moved.values()]).round().astype(np.int16),
        "mode_names": np.array(list(modes)),
        "layers": np.stack(list(layers(figure, data, surface, uv).values())),
    }
    out = io.BytesIO()
    np.savez_compressed(out, **arrays)
    return out.getvalue()


def layers(figure: Figure, data: Path, surface: object, uv: np.ndarray) -> dict[str, np.ndarray]:
    """Painted amounts (size, size) uint8 by name: lips, lids, inside of the mouth, brows, blush, hair, sockets."""
    where, on = texel_positions(surface, figure.points, TEXTURE)
    lips, lids, inside = (mask(data, n, figure.base.uv, uv, TEXTURE) for n in ("lips", "eyelids", "inside-mouth"))
    face = face_places(figure, lips, where, on)
    grey = np.full((TEXTURE, TEXTURE, 3), 1.0)
    brows = 1 - paint.brow_hairs(grey, where, on, face, 7)[..., 0]
    cheek = paint.blob_pair(where, face.eye + [0.014, -0.036, 0.004], np.array([0.018, 0.014, 0.03]))
    blush = np.maximum(cheek, paint.blob(where, face.nose, np.array([0.013, 0.013, 0.02])))
    behind = face.eye[2] - 0.045 - where[..., 2] + 0.75 * (where[..., 1] - face.eye[1] - 0.045)
    hair = np.clip(behind / 0.012 + 0.5, 0, 1) * (where[..., 1] > face.eye[1] - 0.06)
    sockets = paint.blob_pair(where, face.eye + [0.001, -0.002, 0.012], np.array([0.020, 0.0125, 0.03]))
    made = {
        "lips": lips,
        "lids": lids,
        "inside": inside,
        "brows": brows,
        "blush": blush,
        "hair": hair,
        "sockets": sockets,
    }
    return {n: (np.clip(v * on, 0, 1) * 255).round().astype(np.uint8) for n, v in made.items()}


if __name__ == "__main__":
    build_from_data(__doc__, build)
