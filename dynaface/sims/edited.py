"""A stand-in for another program in which a file that was handed over is edited: it uses nothing of ours."""

import numpy as np
from pygltflib import GLTF2


def edited_glb(data: bytes, frames: slice, target: str = "", by: float = 0.3, joint: str = "", degrees: float = 0.0,
               prefix: str = "") -> bytes:  # fmt: skip
    """A glTF binary whose animation has a target's weight higher, and a joint turned further about its own x, at some keys."""
    document = GLTF2.load_from_bytes(data)
    blob = bytearray(document.binary_blob())
    for channel in document.animations[0].channels:
        sampler, node = document.animations[0].samplers[channel.sampler], document.nodes[channel.target.node]
        accessor = document.accessors[sampler.output]
        view = document.bufferViews[accessor.bufferView]
        at = (view.byteOffset or 0) + (accessor.byteOffset or 0)
        keys = document.accessors[sampler.input].count
        if channel.target.path == "weights" and target:
            names = document.meshes[node.mesh].extras["targetNames"]
            if target in names:
                table = np.frombuffer(blob, np.float32, keys * len(names), at).reshape(keys, len(names))
                table[frames, names.index(target)] += np.float32(by)
        if channel.target.path == "rotation" and node.name == joint:
            table = np.frombuffer(blob, np.float32, keys * 4, at).reshape(keys, 4)
            x, y, z, w = table[frames].T.copy()
            s, c = np.sin(np.radians(degrees / 2)), np.cos(np.radians(degrees / 2))
            table[frames] = np.stack([x * c + w * s, y * c + z * s, z * c - y * s, w * c - x * s], axis=1)
    document.set_binary_blob(bytes(blob))
    if prefix:
        for node in document.nodes:
            node.name = f"{prefix}{node.name}"
        for mesh in document.meshes:
            if mesh.extras and "targetNames" in mesh.extras:
                mesh.extras = {**mesh.extras, "targetNames": [f"{prefix}{n}" for n in mesh.extras["targetNames"]]}
    return b"".join(document.save_to_bytes())


def edited_table(data: bytes, column: str, rows: slice, by: float) -> bytes:
    """A table with a column higher in some rows, counted from the first row of numbers."""
    lines = data.decode().splitlines()
    head = next(n for n, line in enumerate(lines) if column in line.split(","))
    place = lines[head].split(",").index(column)
    for n in range(len(lines))[slice(head + 1 + rows.start, head + 1 + rows.stop)]:
        cells = lines[n].split(",")
        cells[place] = f"{float(cells[place]) + by:.6f}"
        lines[n] = ",".join(cells)
    return ("\n".join(lines) + "\n").encode()
