"""Body takes in a file: one of a BVH for each root, one of a glTF for each skeleton that its animation moves, the one of a recorded feed. All are
stood up.
"""

from dataclasses import dataclass
from typing import Any

from dynaface.core.body.skeleton import Motion
from dynaface.core.clock.rates import format_rate
from dynaface.core.errors import InputError
from dynaface.core.match.anatomy import anatomy_of
from dynaface.core.match.upright import stood_up
from dynaface.formats.catalogue import SNIFF, format_of
from dynaface.formats.entries.bvh import FORMAT as BVH
from dynaface.formats.entries.bvh import read_all
from dynaface.formats.gltf.bodies import read_gltf_bodies
from dynaface.formats.gltf.document import is_glb
from dynaface.formats.gltf.pack import is_archive, is_plain, pack


@dataclass(frozen=True)
class NamedBody:
    """A body take of a file, named by its topmost joint."""

    name: str
    motion: Motion

    def describe(self) -> dict[str, Any]:
        """What is known of it, as plain data. fingers: joints of its fingers."""
        motion, slots = self.motion, anatomy_of(self.motion.skeleton).slots
        return {
            "name": self.name, "frames": motion.frames, "rate": format_rate(motion.rate), "seconds": motion.seconds,
            "joints": len(motion.skeleton.names), "timecode": str(motion.timecode) if motion.timecode else "",
            "fingers": sum(s.part.startswith("finger") for s in slots.values()), "notes": [],
        }  # fmt: skip


def read_bodies(data: bytes, filename: str) -> list[NamedBody]:
    """Every body take of a file; raises InputError where it holds none."""
    packed = is_archive(data[:SNIFF] + data[-SNIFF:]) or is_plain(data[:SNIFF])
    binary = pack(data) if packed else data
    if is_glb(binary[:SNIFF]):
        found = read_gltf_bodies(binary)
    else:
        fmt = format_of(data, filename)
        if fmt.kind != "body":
            raise InputError(f"{filename} is a {fmt.label}, not a body take", hint="Bring a .bvh, a .glb with a skeleton's animation, or a recorded body (.jsonl)")  # fmt: skip
        motions = read_all(data) if fmt is BVH else [fmt.read(data)]
        found = [(m.skeleton.names[0], m) for m in motions]
    return [NamedBody(name, stood_up(motion)) for name, motion in found]
