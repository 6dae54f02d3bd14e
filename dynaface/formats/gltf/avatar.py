"""What open avatar extensions say of a character: which targets make which expression, which joints are the eyes.

Read are VRMC_vrm (1.0) and VRM (0.x), tables of the open VRM specification; what is damaged in them is passed over.
"""

from typing import Any

from pygltflib import GLTF2

from dynaface.formats.gltf.names import node_name, target_names

_EYES = {"leftEye": "left", "rightEye": "right"}
_OLD = {"a": "aa", "i": "ih", "u": "ou", "e": "ee", "o": "oh", "joy": "happy", "sorrow": "sad", "fun": "happy"}


def declared_expressions(document: GLTF2, joints: set[str]) -> tuple[dict[str, str], dict[str, str]]:
    """(target -> expression that it alone makes, "left" and "right" -> eye joint) of the extensions in the file."""
    extensions = document.extensions if isinstance(document.extensions, dict) else {}
    new, old = _table(extensions.get("VRMC_vrm")), _table(extensions.get("VRM"))
    declared: dict[str, str] = {}
    groups = _table(new.get("expressions"))
    for expressions in (groups.get("preset"), groups.get("custom")):
        for name, expression in _table(expressions).items():
            binds = [
                (b.get("node"), b.get("index"), b.get("weight", 1.0))
                for b in _list(_table(expression).get("morphTargetBinds"))
            ]
            _declare(document, declared, str(name), binds, by_node=True)
    for group in _list(_table(old.get("blendShapeMaster")).get("blendShapeGroups")):
        name = str(group.get("presetName") or "").lower()
        name = _OLD.get(name, name) if name not in ("", "unknown") else str(group.get("name") or "")
        given = [(b.get("mesh"), b.get("index"), b.get("weight", 100)) for b in _list(group.get("binds"))]
        _declare(document, declared, name, given, by_node=False)
    return declared, _eyes(document, new, old, joints)


def _declare(document: GLTF2, declared: dict[str, str], name: str, binds: list[Any], *, by_node: bool) -> None:
    """An expression that one target makes by itself names that target; several together are left to the sheet."""
    targets: set[str] = set()
    for at, index, weight in binds:
        held: Any = document.nodes if by_node else document.meshes
        if not isinstance(at, int) or not 0 <= at < len(held) or not weight:
            continue
        mesh = document.nodes[at].mesh if by_node else at
        names = target_names(document, mesh) if mesh is not None else ()
        if isinstance(index, int) and 0 <= index < len(names):
            targets.add(names[index])
    if len(targets) == 1 and name:
        declared.setdefault(targets.pop(), name)


def _eyes(document: GLTF2, new: dict[str, Any], old: dict[str, Any], joints: set[str]) -> dict[str, str]:
    bones = {n: _table(b).get("node") for n, b in _table(_table(new.get("humanoid")).get("humanBones")).items()}
    bones |= {str(b.get("bone")): b.get("node") for b in _list(_table(old.get("humanoid")).get("humanBones"))}
    out = {}
    for bone, side in _EYES.items():
        at = bones.get(bone)
        if isinstance(at, int) and 0 <= at < len(document.nodes) and node_name(document, at) in joints:
            out[side] = node_name(document, at)
    return out


def _table(given: Any) -> dict[str, Any]:
    return given if isinstance(given, dict) else {}


def _list(given: Any) -> list[dict[str, Any]]:
    return [g for g in given if isinstance(g, dict)] if isinstance(given, list) else []
