"""Materials of a glTF as USD preview surfaces, with their pictures beside the stage."""

from collections.abc import Mapping
from typing import Any

from pxr import Gf, Sdf, Usd, UsdShade
from pygltflib import GLTF2

from dynaface.formats.usd.names import prim_names

ENDINGS = {"image/png": ".png", "image/jpeg": ".jpg"}


def pictures_of(document: GLTF2, stem: str) -> dict[int, tuple[str, bytes]]:
    """image -> (file name, bytes) of the pictures that lie inside the file and colour a material."""
    out = {}
    blob = document.binary_blob() or b""
    for material in document.materials:
        number = _picture(document, material)
        if number is None or number in out or not 0 <= number < len(document.images):
            continue
        image = document.images[number]
        if image.bufferView is None or image.mimeType not in ENDINGS:
            continue
        view = document.bufferViews[image.bufferView]
        start = view.byteOffset or 0
        out[number] = (f"{stem}_{number}{ENDINGS[image.mimeType]}", blob[start : start + view.byteLength])
    return out


def _picture(document: GLTF2, material: Any) -> int | None:
    plain = material.pbrMetallicRoughness
    texture = plain.baseColorTexture if plain else None
    if texture is None or texture.index is None or not 0 <= texture.index < len(document.textures):
        return None
    return document.textures[texture.index].source


def add_surfaces(
    stage: Usd.Stage, scope: Sdf.Path, document: GLTF2, pictures: Mapping[int, tuple[str, bytes]]
) -> list[UsdShade.Material]:
    """A material for each of the document, under a scope."""
    stage.DefinePrim(scope, "Scope")
    names = prim_names(m.name or f"material {n}" for n, m in enumerate(document.materials))
    return [
        _surface(stage, scope.AppendChild(name), document, material, pictures)
        for name, material in zip(names, document.materials, strict=True)
    ]


def _surface(stage: Usd.Stage, path: Sdf.Path, document: GLTF2, given: Any, pictures: Mapping[int, tuple[str, bytes]]) -> UsdShade.Material:  # fmt: skip
    material = UsdShade.Material.Define(stage, path)
    shader = UsdShade.Shader.Define(stage, path.AppendChild("Surface"))
    shader.CreateIdAttr("UsdPreviewSurface")
    plain = given.pbrMetallicRoughness
    colour = list((plain.baseColorFactor if plain else None) or [1, 1, 1, 1])
    for name, value in (
        ("metallic", plain.metallicFactor if plain else 0.0),
        ("roughness", plain.roughnessFactor if plain else 1.0),
    ):
        shader.CreateInput(name, Sdf.ValueTypeNames.Float).Set(float(1.0 if value is None else value))
    if given.alphaMode in ("BLEND", "MASK"):
        shader.CreateInput("opacity", Sdf.ValueTypeNames.Float).Set(float(colour[3]))
    diffuse = shader.CreateInput("diffuseColor", Sdf.ValueTypeNames.Color3f)
    number = _picture(document, given)
    if number is not None and number in pictures:
        reader = UsdShade.Shader.Define(stage, path.AppendChild("Places"))
        reader.CreateIdAttr("UsdPrimvarReader_float2")
        reader.CreateInput("varname", Sdf.ValueTypeNames.String).Set("st")
        picture = UsdShade.Shader.Define(stage, path.AppendChild("Picture"))
        picture.CreateIdAttr("UsdUVTexture")
        picture.CreateInput("file", Sdf.ValueTypeNames.Asset).Set(pictures[number][0])
        picture.CreateInput("scale", Sdf.ValueTypeNames.Float4).Set(Gf.Vec4f(*colour[:3], 1.0))
        for wrap in ("wrapS", "wrapT"):
            picture.CreateInput(wrap, Sdf.ValueTypeNames.Token).Set("repeat")
        picture.CreateInput("st", Sdf.ValueTypeNames.Float2).ConnectToSource(
            reader.CreateOutput("result", Sdf.ValueTypeNames.Float2)
        )
        diffuse.ConnectToSource(picture.CreateOutput("rgb", Sdf.ValueTypeNames.Float3))
    else:
        diffuse.Set(Gf.Vec3f(*colour[:3]))
    material.CreateSurfaceOutput().ConnectToSource(shader.CreateOutput("surface", Sdf.ValueTypeNames.Token))
    return material
