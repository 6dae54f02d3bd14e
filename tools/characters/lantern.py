"""The salt lantern, a prop: `python -m tools.characters.lantern --out FILE`. It hangs on its handle, in whose middle its origin is."""

import numpy as np
from pygltflib import GLTF2, Asset, Attributes, Material, Mesh, Node, PbrMetallicRoughness, Primitive, Scene

from dynaface.formats.gltf.document import Appender
from tools.characters import paint
from tools.characters.command import build_alone
from tools.characters.export import ARRAY_BUFFER, ELEMENT_BUFFER
from tools.characters.surface import triangles
from tools.characters.tin import Solid, joined, tube, turned

BRASS, IRON = (0.62, 0.44, 0.20), (0.13, 0.14, 0.15)
GLASS, SALT = (1.0, 0.93, 0.74), (1.0, 0.70, 0.28)
BAIL, WIDE = 0.062, 0.058  # metres: how high the handle is above the cap, and half of how wide
POSTS = 6


def pieces() -> dict[str, Solid]:
    """Material -> solid, in metres from the handle's middle."""
    arc = np.radians(np.linspace(0, 180, 40))
    handle = tube(np.stack([WIDE * np.cos(arc), BAIL * np.sin(arc) - BAIL, np.zeros(40)], axis=1), 0.0042)
    top = -BAIL
    cap = turned(np.array([[0.0001, 0.018], [0.014, 0.014], [0.014, 0.014], [0.02, 0.0], [0.062, -0.03], [0.066, -0.036],
                           [0.066, -0.036], [0.05, -0.038], [0.0001, -0.038]])[::-1]).moved(np.array([0, top, 0]))  # fmt: skip
    base = turned(np.array([[0.0001, -0.235], [0.058, -0.235], [0.062, -0.229], [0.062, -0.229], [0.062, -0.205], [0.056, -0.198],
                            [0.056, -0.198], [0.0001, -0.198]])).moved(np.array([0, top, 0]))  # fmt: skip
    angles = np.radians(np.arange(POSTS) * 360 / POSTS)
    line = np.linspace(-0.198, -0.036, 12)
    posts = [
        tube(np.stack([np.full(12, 0.052 * np.cos(a)), top + line, np.full(12, 0.052 * np.sin(a))], axis=1), 0.0028)
        for a in angles
    ]
    rows = np.linspace(-0.196, -0.04, 24)
    bulge = 0.041 + 0.006 * np.sin(np.linspace(0, np.pi, 24))
    glass = turned(np.stack([bulge, rows], axis=1)).moved(np.array([0, top, 0]))
    crystal = np.array([[0.0001, -0.19], [0.026, -0.182], [0.031, -0.15], [0.019, -0.105], [0.0001, -0.075]])
    return {
        "iron": joined([handle, *posts]),
        "brass": joined([cap, base]),
        "salt": turned(crystal, 7).moved(np.array([0, top, 0])),
        "glass": glass,
    }


def materials() -> dict[str, Material]:
    """Brass and iron of the frame, glass, and a crystal of salt that glows."""

    def made(name: str, colour: tuple[float, float, float], rough: float, metal: float, alpha: float = 1.0) -> Material:
        pbr = PbrMetallicRoughness(baseColorFactor=[*colour, alpha], metallicFactor=metal, roughnessFactor=rough)
        mode = "BLEND" if alpha < 1 else "OPAQUE"
        return Material(name=name, pbrMetallicRoughness=pbr, alphaCutoff=None, alphaMode=mode)

    salt = made("salt", paint.linear(SALT), 0.6, 0.0)
    salt.emissiveFactor = [1.0, 0.62, 0.22]
    glass = made("glass", paint.linear(GLASS), 0.12, 0.0, 0.28)
    glass.doubleSided = True
    glass.emissiveFactor = [0.30, 0.19, 0.07]
    return {
        "iron": made("iron", paint.linear(IRON), 0.5, 0.2),
        "brass": made("brass", paint.linear(BRASS), 0.36, 0.4),
        "salt": salt,
        "glass": glass,
    }


def build() -> bytes:
    """The prop's file."""
    document = GLTF2(asset=Asset(version="2.0", generator="Dynaface character tools", copyright="Dynaface"))
    out, painted = Appender(document), materials()
    mesh = Mesh(name="lantern", primitives=[])
    for number, (name, solid) in enumerate(pieces().items()):
        document.materials.append(painted[name])
        attributes = Attributes(
            POSITION=out.accessor(solid.points.astype(np.float32), "VEC3", limits=True, target=ARRAY_BUFFER),
            NORMAL=out.accessor(solid.normal.astype(np.float32), "VEC3", target=ARRAY_BUFFER),
        )
        drawn = triangles(solid.quads).astype(np.uint16).reshape(-1, 1)
        indices = out.accessor(drawn, "SCALAR", target=ELEMENT_BUFFER)
        mesh.primitives.append(Primitive(attributes=attributes, indices=indices, material=number, mode=4))
    document.meshes = [mesh]
    document.nodes = [Node(name="lantern", mesh=0)]
    document.scenes, document.scene = [Scene(nodes=[0], name="lantern")], 0
    out.finish()
    return b"".join(document.save_to_bytes())


if __name__ == "__main__":
    build_alone(__doc__, build)
