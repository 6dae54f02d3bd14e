"""What nodes and targets of a glTF document are called."""

from collections.abc import Mapping
from typing import Any

from pygltflib import GLTF2

from dynaface.core.errors import InputError


def node_name(document: GLTF2, index: int) -> str:
    """The name of a node, or one made of its number; raises InputError for one that is not there."""
    if not 0 <= index < len(document.nodes):
        raise InputError(f"the file names node {index} of {len(document.nodes)}", hint="It was cut off or damaged; export it again")  # fmt: skip
    return document.nodes[index].name or f"node {index}"


def target_names(document: GLTF2, mesh_index: int) -> tuple[str, ...]:
    """Morph target names from extras.targetNames, else from accessor names, else numbered."""
    mesh = document.meshes[mesh_index]
    count = max((len(p.targets or []) for p in mesh.primitives), default=0)
    given = mesh.extras.get("targetNames", []) if isinstance(mesh.extras, Mapping) else []
    names = [n for n in given if isinstance(n, str)][:count] if isinstance(given, list) else []
    first: Any = max((p.targets for p in mesh.primitives if p.targets), key=len, default=[])
    for i in range(len(names), count):
        place = _position(first[i])
        accessor = document.accessors[place] if place is not None and place < len(document.accessors) else None
        names.append((accessor.name if accessor else None) or f"target{i}")
    return tuple(str(n) for n in names)


def _position(target: object) -> int | None:
    return target.get("POSITION") if isinstance(target, dict) else getattr(target, "POSITION", None)
