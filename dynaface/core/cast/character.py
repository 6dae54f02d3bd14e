"""A character as the cast sheet sees it: which meshes carry which targets, its skeleton, and what was found out about it."""

from collections.abc import Mapping
from dataclasses import dataclass, field

from dynaface.core.body.skeleton import Skeleton
from dynaface.core.cast.match import Match, match_by_name
from dynaface.core.cast.study import Study
from dynaface.core.match.names import part_of


@dataclass(frozen=True)
class MeshTargets:
    """mesh: its name; targets: morph target names in order; joints: skeleton joints that move it, if skinned."""

    mesh: str
    targets: tuple[str, ...]
    joints: tuple[str, ...] = ()


@dataclass(frozen=True)
class Character:
    """name; meshes with targets; skeleton (None where there is none); study: what its mesh says, None where it was not
    looked at; declared: target -> what the file itself says that it expresses; eyes: "left", "right" -> joint that the file names;
    clips: its animations that move shapes.
    """

    name: str
    meshes: tuple[MeshTargets, ...]
    skeleton: Skeleton | None
    study: Study | None = None
    declared: Mapping[str, str] = field(default_factory=dict)
    eyes: Mapping[str, str] = field(default_factory=dict)
    clips: tuple[str, ...] = ()

    @property
    def targets(self) -> tuple[str, ...]:
        """All target names, each once, in the order in which meshes bring them."""
        return tuple(dict.fromkeys(t for m in self.meshes for t in m.targets))

    def carried_by(self, target: str) -> tuple[str, ...]:
        """Meshes that have the target."""
        return tuple(m.mesh for m in self.meshes if target in m.targets)

    def named(self, target: str) -> Match | None:
        """What drives a target by its name, or by what the file says that it expresses."""
        return match_by_name(target) or (match_by_name(self.declared[target]) if target in self.declared else None)

    def eye_joint(self, side: str) -> str | None:
        """The joint of one eye ("left" or "right"), or None."""
        if side in self.eyes:
            return self.eyes[side]
        for name in self.skeleton.names if self.skeleton else ():
            found = part_of(name)
            if found and found[0] == "eye" and found[1] == side[0].upper():
                return name
        return None
