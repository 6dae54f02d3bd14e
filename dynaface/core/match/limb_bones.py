"""Arms and legs of a skeleton as bones that bend."""

from dynaface.core.body.skeleton import Skeleton
from dynaface.core.body.two_bones import Bones
from dynaface.core.match.anatomy import anatomy_of

ARM, LEG = ("upperarm", "lowerarm", "hand"), ("upperleg", "lowerleg", "foot")


def bones_of(skeleton: Skeleton, parts: tuple[str, str, str], side: str) -> Bones | None:
    """The joints of a limb, side "L" or "R", where each hangs on the one before; None otherwise."""
    joints = [anatomy_of(skeleton).joint(part, side) for part in parts]
    if min(joints) < 0 or not skeleton.chained(joints):
        return None
    return Bones(*joints)


def limbs_of(skeleton: Skeleton) -> dict[str, Bones]:
    """Limbs that a skeleton has, by their names in `shapes.rig.LIMBS`."""
    wanted = {
        f"{end}{word}": (parts, word[0]) for end, parts in (("hand", ARM), ("foot", LEG)) for word in ("Left", "Right")
    }
    found = {limb: bones_of(skeleton, *own) for limb, own in wanted.items()}
    return {limb: bones for limb, bones in found.items() if bones is not None}
