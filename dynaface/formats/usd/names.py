"""Names of prims: USD allows letters, digits and underscores only."""

from collections.abc import Iterable

from pxr import Tf


def prim_names(names: Iterable[str]) -> list[str]:
    """A name that USD allows for each, no two alike."""
    out: list[str] = []
    for name in names:
        # A number in front would be lost, and with it what tells two names apart.
        plain = Tf.MakeValidIdentifier(f"_{name}" if name[:1].isdigit() else name or "unnamed")
        made, number = plain, 2
        while made in out:
            made, number = f"{plain}_{number}", number + 1
        out.append(made)
    return out


def joint_paths(names: Iterable[str], parents: Iterable[int]) -> list[str]:
    """The path of each joint from its root, as UsdSkel names joints."""
    out: list[str] = []
    for name, parent in zip(prim_names(names), parents, strict=True):
        out.append(f"{out[parent]}/{name}" if parent >= 0 else name)
    return out
