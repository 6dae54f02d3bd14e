"""Several glTF binaries as one, each standing where it is put, their animations as one that plays all of them."""

import json
import struct
from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field
from typing import Any

from dynaface.core.body.rotations import about
from dynaface.core.handover.delivery import Vector

Plain = dict[str, Any]
PARTS = (
    "accessors",
    "bufferViews",
    "meshes",
    "materials",
    "textures",
    "images",
    "samplers",
    "skins",
    "nodes",
    "cameras",
)
OF_THE_FILE = ("VRM", "VRMC_vrm", "VRMC_springBone", "VRMC_node_constraint", "VRMC_materials_mtoon")
"""Extensions that speak of a file as one person: they have no sense in a file of several."""


@dataclass(frozen=True)
class Standing:
    """A glTF binary with its name, where it stands (metres), and by how many degrees it is turned to its left."""

    data: bytes
    name: str
    at: Vector = (0.0, 0.0, 0.0)
    turn: float = 0.0


@dataclass
class _Whole:
    """The file that is being put together."""

    parts: dict[str, list[Any]] = field(default_factory=lambda: {p: [] for p in PARTS})
    roots: list[int] = field(default_factory=list)
    channels: list[Plain] = field(default_factory=list)
    curves: list[Plain] = field(default_factory=list)
    used: list[str] = field(default_factory=list)
    required: list[str] = field(default_factory=list)
    blob: bytes = b""


def merged(figures: Sequence[Standing], name: str, extras: Mapping[str, Any]) -> bytes:
    """One glTF binary of all. Nodes of each lie behind those of the one before it. extras: kept under extras.dynaface of the animation."""
    whole = _Whole()
    for figure in figures:
        document, blob = _opened(figure.data)
        _add(whole, document, blob, figure)
    made: Plain = {
        "asset": {"version": "2.0", "generator": "Dynaface"}, "scene": 0, "scenes": [{"name": name, "nodes": whole.roots}],
        "buffers": [{"byteLength": len(whole.blob)}],
        "animations": [{"name": name, "samplers": whole.curves, "channels": whole.channels, "extras": {"dynaface": dict(extras)}}],
        **{part: held for part, held in whole.parts.items() if held},
    }  # fmt: skip
    for key, names in (("extensionsUsed", whole.used), ("extensionsRequired", whole.required)):
        if names:
            made[key] = sorted(dict.fromkeys(names))
    return _binary(made, whole.blob)


def _opened(data: bytes) -> tuple[Plain, bytes]:
    (size,) = struct.unpack_from("<I", data, 12)
    document = json.loads(data[20 : 20 + size])
    return document, data[20 + size + 8 :]


def _binary(document: Plain, blob: bytes) -> bytes:
    text = json.dumps(document, separators=(",", ":")).encode()
    text += b" " * (-len(text) % 4)
    blob += bytes(-len(blob) % 4)
    length = 12 + 8 + len(text) + 8 + len(blob)
    return struct.pack("<4sII", b"glTF", 2, length) + struct.pack("<I4s", len(text), b"JSON") + text + struct.pack("<I4s", len(blob), b"BIN\0") + blob  # fmt: skip


def _add(whole: _Whole, document: Plain, blob: bytes, figure: Standing) -> None:
    base = {part: len(held) for part, held in whole.parts.items()}
    offset = len(whole.blob)
    for view in document.get("bufferViews", []):
        view["byteOffset"] = view.get("byteOffset", 0) + offset
    for accessor in document.get("accessors", []):
        _shift(accessor, "bufferView", base["bufferViews"])
        for side in ("indices", "values"):
            _shift(accessor.get("sparse", {}).get(side, {}), "bufferView", base["bufferViews"])
    for mesh in document.get("meshes", []):
        for primitive in mesh["primitives"]:
            _shift(primitive, "indices", base["accessors"])
            _shift(primitive, "material", base["materials"])
            for held in (primitive["attributes"], *primitive.get("targets", [])):
                for key in held:
                    held[key] += base["accessors"]
    for material in document.get("materials", []):
        _shift_textures(material, base["textures"])
        _without_own(material)
    for texture in document.get("textures", []):
        _shift(texture, "source", base["images"])
        _shift(texture, "sampler", base["samplers"])
    for image in document.get("images", []):
        _shift(image, "bufferView", base["bufferViews"])
    for skin in document.get("skins", []):
        _shift(skin, "inverseBindMatrices", base["accessors"])
        _shift(skin, "skeleton", base["nodes"])
        skin["joints"] = [j + base["nodes"] for j in skin["joints"]]
    for node in document["nodes"]:
        for key, part in (("mesh", "meshes"), ("skin", "skins"), ("camera", "cameras")):
            _shift(node, key, base[part])
        if "children" in node:
            node["children"] = [c + base["nodes"] for c in node["children"]]
        node.pop("extensions", None)
    for part in PARTS:
        whole.parts[part] += document.get(part, [])
    _play(whole, document, base)
    _stand(whole, document, base["nodes"], figure)
    for key, names in (("extensionsUsed", whole.used), ("extensionsRequired", whole.required)):
        names += [n for n in document.get(key, []) if n not in OF_THE_FILE and not n.startswith("KHR_lights")]
    whole.blob += blob + bytes(-len(blob) % 4)


def _shift(holder: Plain, key: str, by: int) -> None:
    if key in holder:
        holder[key] += by


def _shift_textures(holder: Any, by: int) -> None:
    """Every texture that a material names, in its extensions too."""
    if isinstance(holder, list):
        for one in holder:
            _shift_textures(one, by)
    elif isinstance(holder, dict):
        for key, value in holder.items():
            if key.endswith("Texture") and isinstance(value, dict):
                _shift(value, "index", by)
            _shift_textures(value, by)


def _without_own(material: Plain) -> None:
    held = material.get("extensions", {})
    for name in OF_THE_FILE:
        held.pop(name, None)


def _play(whole: _Whole, document: Plain, base: Mapping[str, int]) -> None:
    for animation in document.get("animations", []):
        first = len(whole.curves)
        for curve in animation["samplers"]:
            whole.curves.append({**curve, "input": curve["input"] + base["accessors"], "output": curve["output"] + base["accessors"]})  # fmt: skip
        for channel in animation["channels"]:
            target = {**channel["target"], "node": channel["target"]["node"] + base["nodes"]}
            whole.channels.append({"sampler": channel["sampler"] + first, "target": target})


def _stand(whole: _Whole, document: Plain, base: int, figure: Standing) -> None:
    """A node of its own puts a figure in its place; it lies behind the nodes of the figure."""
    scenes = document.get("scenes") or [{}]
    below = {c for n in document["nodes"] for c in n.get("children", [])}
    alone = [n for n in range(base, base + len(document["nodes"])) if n not in below]
    roots = [n + base for n in scenes[document.get("scene", 0)].get("nodes", [])] or alone
    place: Plain = {"name": figure.name, "children": roots}
    if any(figure.at):
        place["translation"] = [float(v) for v in figure.at]
    if figure.turn:
        place["rotation"] = [float(v) for v in about("y", figure.turn)]
    whole.roots.append(len(whole.parts["nodes"]))
    whole.parts["nodes"].append(place)
