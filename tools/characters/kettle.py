"""Kettle, a tin automaton with joints and no face shapes: `python -m tools.characters.kettle --out dynaface/assets/characters/kettle.glb`.

Its face joints do not stand square to the world, as in many rigs: which axis opens the jaw has to be found.
"""

import numpy as np

from dynaface.core.body.rotations import about, multiply
from tools.characters import paint
from tools.characters.base import Rig
from tools.characters.command import build_alone
from tools.characters.export import Piece, Writer
from tools.characters.odile import encoded
from tools.characters.surface import Drawn, noise, triangles
from tools.characters.tin import Solid, ball, joined, plate, tube, turned

EYE, LIFT, AHEAD = 0.050, 1.165, 0.124  # where the left eye is: to its left, up, ahead
RADIUS = 0.036
BRASS, TIN, IRON, SOOT = (0.66, 0.47, 0.20), (0.56, 0.58, 0.57), (0.24, 0.25, 0.27), (0.05, 0.05, 0.06)
# Joint -> (its parent, place); sides are mirrored. Lids turn about the eye, brows and jaw as plates.
_MIDDLE = {"hips": ("", (0, 0.62, 0)), "spine1": ("hips", (0, 0.74, 0)), "spine2": ("spine1", (0, 0.86, 0)),
           "neck": ("spine2", (0, 0.99, 0)), "head": ("neck", (0, 1.04, 0)), "jaw": ("head", (0, 1.10, -0.02))}  # fmt: skip
_SIDED = {"eye": ("head", (EYE, LIFT, AHEAD)), "lidUpper": ("head", (EYE, LIFT, AHEAD)), "lidLower": ("head", (EYE, LIFT, AHEAD)),
          "browPlate": ("head", (EYE, LIFT + 0.066, AHEAD + 0.020)), "clavicle": ("spine2", (0.05, 0.95, 0)),
          "upperArm": ("clavicle", (0.17, 0.95, 0)), "lowerArm": ("upperArm", (0.36, 0.95, 0)),
          "hand": ("lowerArm", (0.54, 0.95, 0)), "upperLeg": ("hips", (0.09, 0.58, 0)),
          "lowerLeg": ("upperLeg", (0.09, 0.32, 0.005)), "foot": ("lowerLeg", (0.09, 0.07, 0))}  # fmt: skip
# How the face joints stand, in degrees about x, y, z one after the other.
STANCE = {"jaw": (0, 0, 90), "lidUpperLeft": (0, 90, 0), "lidUpperRight": (0, -90, 0), "lidLowerLeft": (0, 0, 180),
          "lidLowerRight": (0, 0, 180), "browPlateLeft": (90, 0, 0), "browPlateRight": (90, 0, 0)}  # fmt: skip


def rig() -> Rig:
    """Names, parents and places; weights are set piece by piece."""
    rows = [(n, p, np.array(at, float)) for n, (p, at) in _MIDDLE.items()]
    for name, (parent, at) in _SIDED.items():
        for side, sign in (("Left", 1), ("Right", -1)):
            above = parent + side if parent in _SIDED else parent
            rows.append((name + side, above, np.array(at) * [sign, 1, 1]))
    names = [r[0] for r in rows]
    order = sorted(range(len(rows)), key=lambda i: _depth(names, rows, i))
    names = [rows[i][0] for i in order]
    parents = tuple(names.index(rows[i][1]) if rows[i][1] else -1 for i in order)
    return Rig(tuple(names), parents, np.array([rows[i][2] for i in order]), np.zeros((0, len(names))))


def _depth(names: list[str], rows: list, at: int) -> int:
    return 0 if not rows[at][1] else 1 + _depth(names, rows, names.index(rows[at][1]))


def stance() -> dict[str, np.ndarray]:
    """Joint -> (4,) its rotation at rest."""
    return {j: multiply(about("z", z), multiply(about("y", y), about("x", x))) for j, (x, y, z) in STANCE.items()}


def pieces() -> list[tuple[str, str, Solid]]:
    """(joint, material, solid) of everything."""
    head = np.array([0, 1.15, 0.0])
    dome = turned(np.array([(0.145, -0.055), (0.145, 0.03), (0.143, 0.055), (0.128, 0.100), (0.098, 0.130), (0.055, 0.146),
                            (0.0, 0.150)]), 64).moved(head)  # fmt: skip
    band = turned(
        np.array(
            [(0.142, -0.062), (0.153, -0.062), (0.153, -0.062), (0.153, -0.044), (0.153, -0.044), (0.142, -0.044)]
        ),
        64,
    ).moved(head)
    throat = turned(np.array([(0.10, -0.135), (0.118, -0.10), (0.122, -0.06)]), 48).moved(head)
    lid = turned(
        np.array(
            [
                (0.0, 0.200),
                (0.012, 0.198),
                (0.020, 0.185),
                (0.012, 0.172),
                (0.010, 0.165),
                (0.052, 0.158),
                (0.060, 0.146),
            ]
        ),
        40,
    ).moved(head)
    handle = _bow(head)
    spout = _spout(head)
    out = [
        ("head", "tin", dome),
        ("head", "soot", throat),
        ("head", "brass", joined([band, lid, handle])),
        ("head", "brass", spout),
    ]
    lower = turned(np.array([(0.131, -0.075), (0.150, -0.075), (0.150, -0.075), (0.146, -0.112), (0.126, -0.150), (0.09, -0.168), (0.085, -0.160),
                             (0.120, -0.142), (0.131, -0.110)]), 40, part=(-82, 82)).moved(head)  # fmt: skip
    grille = [
        turned(
            np.array([(0.1515, y), (0.1535, y), (0.1535, y - 0.004), (0.1515, y - 0.004)]), 24, part=(-34, 34)
        ).moved(head)
        for y in (-0.086, -0.097, -0.108)
    ]
    out += [("jaw", "tin dark", lower), ("jaw", "iron", joined(grille))]
    rivets = [ball(0.007, rings=8, around=14).moved(np.array([s * 0.149, 1.10, -0.02])) for s in (-1, 1)]
    out.append(("head", "brass", joined(rivets)))
    for side, sign in (("Left", 1), ("Right", -1)):
        eye = np.array([sign * EYE, LIFT, AHEAD])
        out.append((f"eye{side}", "eye", _facing(ball(RADIUS, rings=40, around=64), eye)))
        # A goggle that stands out of the dome holds the eye and its lids.
        ring = turned(np.array([(0.0445, -0.07), (0.0535, -0.07), (0.0535, -0.07), (0.0535, 0.026), (0.050, 0.030), (0.0445, 0.028),
                                (0.0445, 0.028), (0.0445, -0.07)]), 48, axis="z")  # fmt: skip
        out.append(("head", "brass", ring.moved(eye)))
        # Shells that lie open: the upper from behind the crown of the eye, the lower from under it.
        upper = _shell(RADIUS + 0.003, 38, 125).moved(eye)
        under = _shell(RADIUS + 0.0015, -118, -42).moved(eye)
        out += [(f"lidUpper{side}", "tin dark", upper), (f"lidLower{side}", "tin dark", under)]
        brow = plate(np.array([0.088, 0.018, 0.018]), 0.004).moved(eye + [0.003 * sign, 0.066, 0.020])
        out.append((f"browPlate{side}", "iron", brow))
        out += _limbs(side, sign)
    barrel = turned(
        np.array(
            [
                (0.0, 0.64),
                (0.12, 0.64),
                (0.135, 0.655),
                (0.165, 0.80),
                (0.165, 0.88),
                (0.145, 0.95),
                (0.09, 0.985),
                (0.0, 0.99),
            ]
        ),
        56,
    )
    hoops = [
        turned(np.array([(r, y - 0.009), (r + 0.006, y - 0.009), (r + 0.006, y + 0.009), (r, y + 0.009)]), 56)
        for r, y in ((0.138, 0.675), (0.166, 0.84))
    ]
    out += [("spine2", "tin", barrel), ("spine2", "brass", joined(hoops))]
    dial = turned(np.array([(0.0, 0.010), (0.036, 0.010), (0.042, 0.004), (0.042, 0.0)]), 40, axis="z").moved(
        np.array([0, 0.83, 0.163])
    )
    out.append(("spine2", "brass", dial))
    out.append(("neck", "iron", turned(np.array([(0.05, 0.975), (0.05, 1.06)]), 32)))
    out.append(
        (
            "hips",
            "iron",
            turned(np.array([(0.0, 0.56), (0.08, 0.565), (0.115, 0.60), (0.115, 0.645), (0.0, 0.645)]), 40),
        )
    )
    return out


def _facing(solid: Solid, at: np.ndarray) -> Solid:
    """A ball with its pole ahead, so that its uv are rings about where it looks."""
    points = solid.points[:, [0, 2, 1]] * [1, -1, 1]
    normal = solid.normal[:, [0, 2, 1]] * [1, -1, 1]
    return Solid(points + at, solid.quads, normal, solid.uv)


def _shell(radius: float, low: float, high: float) -> Solid:
    """Part of a ball about the x axis, from `low` to `high` degrees above where the eye looks, as a shell."""
    wide = turned(
        np.array([(radius * np.cos(a), radius * np.sin(a)) for a in np.radians(np.linspace(-80, 80, 22))]),
        30,
        part=(low, high),
    )
    points, normal = wide.points[:, [1, 0, 2]], wide.normal[:, [1, 0, 2]]
    # (x, y, z) of the turned profile: its axis becomes x, its angle runs from ahead upward.
    inner = points * (1 - 0.0016 / radius)
    quads = wide.quads
    both = np.concatenate([points, inner])
    return Solid(
        both,
        np.concatenate([quads, quads[:, ::-1] + len(points)]),
        np.concatenate([normal, -normal]),
        np.concatenate([wide.uv, wide.uv]),
    )


def _bow(head: np.ndarray) -> Solid:
    """The kettle's handle over the dome."""
    angle = np.linspace(-1.15, 1.15, 28)
    line = np.stack([0.165 * np.sin(angle), 0.06 + 0.165 * np.cos(angle), np.full(28, -0.01)], axis=1)
    return tube(line + head, 0.008)


def _spout(head: np.ndarray) -> Solid:
    """A short spout for a nose."""
    at = np.linspace(0, 1, 14)
    line = np.stack([np.zeros(14), -0.034 + 0.026 * at**2, 0.135 + 0.068 * at], axis=1)
    lip = np.concatenate([0.018 - 0.007 * at, [0.006, 0.0001]])
    return tube(np.concatenate([line, line[-1:] - [[0, 0, 0.002]], line[-1:] - [[0, 0, 0.010]]]) + head, lip)


def _limbs(side: str, sign: int) -> list[tuple[str, str, Solid]]:
    flip = np.array([sign, 1, 1])

    def rod(start: tuple, end: tuple, radius: float) -> Solid:
        line = np.linspace(np.array(start) * flip, np.array(end) * flip, 5)
        return tube(line, radius)

    def knob(at: tuple, radius: float) -> Solid:
        return ball(radius, rings=14, around=24).moved(np.array(at) * flip)

    hand = joined([plate(np.array([0.07, 0.035, 0.06]), 0.008).moved(np.array([0.585, 0.95, 0]) * flip),
                   *(rod((0.61, 0.95, z), (0.675, 0.95, z), 0.010) for z in (-0.022, 0.0, 0.022)),
                   rod((0.57, 0.95, 0.03), (0.60, 0.945, 0.065), 0.010)])  # fmt: skip
    foot = plate(np.array([0.085, 0.06, 0.17]), 0.014).moved(np.array([0.09, 0.031, 0.03]) * flip)
    return [
        (f"clavicle{side}", "brass", knob((0.165, 0.95, 0), 0.036)),
        (f"upperArm{side}", "tin dark", rod((0.17, 0.95, 0), (0.36, 0.95, 0), 0.021)),
        (f"lowerArm{side}", "brass", knob((0.36, 0.95, 0), 0.029)),
        (f"lowerArm{side}", "tin dark", rod((0.36, 0.95, 0), (0.54, 0.95, 0), 0.024)),
        (f"hand{side}", "iron", hand),
        (f"upperLeg{side}", "tin dark", rod((0.09, 0.58, 0), (0.09, 0.32, 0.005), 0.028)),
        (f"lowerLeg{side}", "brass", knob((0.09, 0.32, 0.005), 0.036)),
        (f"lowerLeg{side}", "tin dark", rod((0.09, 0.32, 0.005), (0.09, 0.07, 0), 0.030)),
        (f"foot{side}", "iron", foot),
    ]


def metal(seed: int, base: tuple[float, float, float], wear: tuple[float, float, float]) -> np.ndarray:
    """(256, 256, 3) of beaten, stained tin; it repeats at its edges."""
    u, v = np.meshgrid(np.linspace(0, 2 * np.pi, 256, endpoint=False), np.linspace(0, 2 * np.pi, 256, endpoint=False))
    at = np.stack([np.cos(u) + 2, np.sin(u) + np.cos(v), np.sin(v)], axis=-1)
    stain = noise(at, 0.5, seed) + 0.5 * noise(at, 0.16, seed + 1)
    colour = np.array(base) * (1 + 0.10 * noise(at, 0.08, seed + 2)[..., None])
    return np.clip(paint.mix(colour, wear, np.clip(stain * 0.9, 0, 0.65)), 0, 1)


def lens() -> np.ndarray:
    """(256, 64, 3) of an eye by latitude (from the top: ahead .. behind): a lamp-yellow iris in enamel."""
    rows = np.linspace(0, 180, 256)[:, None] * np.ones((1, 64))
    colour = np.broadcast_to([0.90, 0.87, 0.78], (*rows.shape, 3)).copy()
    colour = np.where((rows < 34)[..., None], [0.86, 0.56, 0.16], colour)
    colour = paint.mix(colour, (0.98, 0.78, 0.36), np.exp(-0.5 * ((rows - 16) / 5) ** 2))
    colour = paint.mix(colour, (0.10, 0.08, 0.06), np.exp(-0.5 * ((rows - 34) / 2.2) ** 2))
    return np.clip(paint.mix(colour, (0.03, 0.03, 0.03), 1 / (1 + np.exp((rows - 12) * 1.8))), 0, 1)


def build() -> bytes:
    """The character's file."""
    figure = rig()
    out = Writer(figure, "Kettle", "Dynaface", stance())
    out.material("tin", (1, 1, 1), 0.42, out.image(encoded(metal(3, TIN, (0.38, 0.33, 0.27))), "image/jpeg"))
    out.material(
        "tin dark",
        (1, 1, 1),
        0.5,
        out.image(encoded(metal(8, tuple(0.72 * c for c in TIN), (0.30, 0.24, 0.19))), "image/jpeg"),
        double=True,
    )
    out.material("brass", paint.linear(BRASS), 0.34)
    out.material("iron", paint.linear(IRON), 0.55)
    out.material("soot", paint.linear(SOOT), 0.9)
    out.material("eye", (1, 1, 1), 0.10, out.image(encoded(lens(), 92), "image/jpeg"))
    held: dict[str, list[Piece]] = {"plates": [], "eyes": [], "frame": []}
    for joint, material, solid in pieces():
        weights = np.zeros((len(solid.points), len(figure.names)))
        weights[:, figure.names.index(joint)] = 1
        surface = Drawn(np.arange(len(solid.points)), solid.uv, triangles(solid.quads))
        mesh = "eyes" if material == "eye" else "plates" if joint.startswith(("lid", "brow", "jaw")) else "frame"
        held[mesh].append(Piece(surface, solid.points, solid.normal, weights, material))
    for name, made in held.items():
        out.mesh(name, made)
    return out.finish()


if __name__ == "__main__":
    build_alone(__doc__, build)
