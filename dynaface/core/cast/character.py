"""A character as the cast sheet sees it: which meshes carry which targets, and its skeleton."""

from dataclasses import dataclass

from dynaface.core.body.match import part_of
from dynaface.core.body.skeleton import Skeleton


@dataclass(frozen=True)
class MeshTargets:
    """mesh: its name; targets: morph target names in order; joints: skeleton joints that move it, if skinned."""

    mesh: str
    targets: tuple[str, ...]
    joints: tuple[str, ...] = ()


@dataclass(frozen=True)
class Character:
    """name; meshes with targets; skeleton (None where there is none)."""

    name: str
    meshes: tuple[MeshTargets, ...]
    skeleton: Skeleton | None

    @property
    def targets(self) -> tuple[str, ...]:
        """All target names, each once, in the order in which meshes bring them."""
        return tuple(dict.fromkeys(t for m in self.meshes for t in m.targets))

    def carried_by(self, target: str) -> tuple[str, ...]:
        """Meshes that have the target."""
        return tuple(m.mesh for m in self.meshes if target in m.targets)

    def eye_joint(self, side: str) -> str | None:
        """The joint of one eye ("left" or "right"), or None."""
        for name in self.skeleton.names if self.skeleton else ():
            found = part_of(name)
            if found and found[0] == "eye" and found[1] == side[0].upper():
                return name
        return None
