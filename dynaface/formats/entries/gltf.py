"""Characters as glTF 2.0 binary (.glb). Baking a performance onto one is in formats.gltf.bake."""

from typing import Any

from dynaface.core.cast.character import Character
from dynaface.core.cast.sheet import CastSheet, match_targets
from dynaface.formats.format import Format
from dynaface.formats.gltf.character import read_character
from dynaface.formats.gltf.document import is_glb


def _check(character: Character) -> dict[str, Any]:
    report = match_targets(character, CastSheet())
    joints = character.skeleton.names if character.skeleton else ()
    return {
        "meshes": [m.mesh for m in character.meshes],
        "targets": len(character.targets),
        "joints": len(joints),
        "missing": list(report.missing),
        "unused": list(report.unused),
        "notes": [],
    }


FORMAT = Format(
    "gltf", "glTF character (.glb)", "character", (".glb",), is_glb, read_character, None, _check, 512_000_000
)
