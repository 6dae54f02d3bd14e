"""Characters as glTF 2.0 binary (.glb). Baking a performance onto one is in formats.gltf.bake."""

from dynaface.formats.format import Format
from dynaface.formats.gltf.character import describe_character, read_character
from dynaface.formats.gltf.document import is_glb

FORMAT = Format(
    "gltf", "glTF character (.glb)", "character", (".glb", ".vrm"), is_glb, read_character, None, describe_character,
    512_000_000,
)  # fmt: skip
