"""Materials of a glTF as USD preview surfaces, with their pictures beside the stage."""

from collections.abc import Mapping

from pxr import Gf, Sdf, Usd, UsdShade
from pygltflib import GLTF2

from dynaface.formats.gltf.dress import colour_of, image_bytes, picture_of
from dynaface.formats.usd.names import prim_names

ENDINGS = {"image/png": ".png", "image/jpeg": ".jpg"}


def pictures_of(document: GLTF2, stem: str) -> dict[int, tuple[str, bytes]]:
    """image -> (file name, bytes) of the pictures that lie inside the file and colour a material."""
    out = {}
    for material in range(len(document.materials)):
        number = picture_of(document, material)
        found = image_bytes(document, number) if number is not None and number not in out else None
        if number is not None and found is not None and found[0] in ENDINGS:
            out[number] = (f"{stem}_{number}{ENDINGS[found[0]]}", found[1])
    return out


def add_surfaces(
    stage: Usd.Stage, scope: Sdf.Path, document: GLTF2, pictures: Mapping[int, tuple[str, bytes]]
) -> list[UsdShade.Material]:
    """A material for each of the document, under a scope."""
    stage.DefinePrim(scope, "Scope")
    names = prim_names(m.name or f"material {n}" for n, m in enumerate(document.materials))
    return [_surface(stage, scope.AppendChild(name), document, number, pictures) for number, name in enumerate(names)]


def _surface(stage: Usd.Stage, path: Sdf.Path, document: GLTF2, number: int, pictures: Mapping[int, tuple[str, bytes]]) -> UsdShade.Material:  # fmt: skip
    material = UsdShade.Material.Define(stage, path)
    shader = UsdShade.Shader.Define(stage, path.AppendChild("Surface"))
    shader.CreateIdAttr("UsdPreviewSurface")
    look = colour_of(document, number)
    colour = look.colour
    for name, value in (("metallic", look.metallic), ("roughness", look.roughness)):
        shader.CreateInput(name, Sdf.ValueTypeNames.Float).Set(value)
    if look.blended:
        shader.CreateInput("opacity", Sdf.ValueTypeNames.Float).Set(float(colour[3]))
    diffuse = shader.CreateInput("diffuseColor", Sdf.ValueTypeNames.Color3f)
    picture_number = picture_of(document, number)
    if picture_number is not None and picture_number in pictures:
        reader = UsdShade.Shader.Define(stage, path.AppendChild("Places"))
        reader.CreateIdAttr("UsdPrimvarReader_float2")
        reader.CreateInput("varname", Sdf.ValueTypeNames.String).Set("st")
        picture = UsdShade.Shader.Define(stage, path.AppendChild("Picture"))
        picture.CreateIdAttr("UsdUVTexture")
        picture.CreateInput("file", Sdf.ValueTypeNames.Asset).Set(pictures[picture_number][0])
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
