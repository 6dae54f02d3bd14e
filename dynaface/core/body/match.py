"""Matches the joints of two skeletons by the part of the body that their names speak of."""

import re
from functools import lru_cache

_WORD = re.compile(r"[A-Z]+(?![a-z])|[A-Z]?[a-z]+|\d+")
_SIDES = {"l": "L", "left": "L", "lft": "L", "r": "R", "right": "R", "rgt": "R"}
# Each part by the words that mean it; the longest match wins.
_PARTS: dict[str, tuple[tuple[str, ...], ...]] = {
    "hips": (("hips",), ("hip", "root"), ("root",), ("pelvis",)),
    "clavicle": (("clavicle",), ("shoulder",), ("collar",)),
    "upperarm": (("upper", "arm"), ("upperarm",), ("arm",), ("humerus",)),
    "lowerarm": (("lower", "arm"), ("low", "arm"), ("lowerarm",), ("fore", "arm"), ("forearm",), ("elbow",)),
    "hand": (("hand",), ("wrist",)),
    "upperleg": (("upper", "leg"), ("upperleg",), ("up", "leg"), ("thigh",), ("femur",)),
    "lowerleg": (("lower", "leg"), ("low", "leg"), ("lowerleg",), ("leg",), ("shin",), ("calf",), ("knee",)),
    "foot": (("foot",), ("ankle",)),
    "toe": (("toe",), ("toes",), ("toe", "base"), ("ball",)),
    "head": (("head",),),
    "neck": (("neck",),),
    "spine": (("spine",), ("chest",), ("upper", "chest"), ("torso",), ("abdomen",)),
    "jaw": (("jaw",),),
    "eye": (("eye",), ("eyeball",)),
    "finger1": (("thumb",),),
    "finger2": (("index",), ("hand", "index"), ("pointer",)),
    "finger3": (("middle",), ("hand", "middle")),
    "finger4": (("ring",), ("hand", "ring")),
    "finger5": (("pinky",), ("little",), ("hand", "pinky")),
}
_BY_WORDS = {frozenset(words): part for part, spellings in _PARTS.items() for words in spellings}
_IGNORED = {"rig", "def", "joint", "jnt", "bone", "character", "skeleton", "b"}


@lru_cache(maxsize=4096)
def part_of(name: str) -> tuple[str, str, tuple[int, ...]] | None:
    """(part, side "L", "R" or "", numbers) that a joint's name speaks of, or None."""
    words = [w.lower() for w in _WORD.findall(name.rsplit(":", 1)[-1])]
    numbers = tuple(int(w) for w in words if w.isdigit())
    side = next((_SIDES[w] for w in words if w in _SIDES), "")
    bag = frozenset(w for w in words if not w.isdigit() and w not in _SIDES and w not in _IGNORED)
    if bag in ({"finger"}, {"hand", "finger"}) and numbers:
        return f"finger{numbers[0]}", side, numbers[1:]
    # Exact only: "end", "twist", "roll" and "metacarpal" joints are not the part they are named after.
    part = _BY_WORDS.get(bag) or (_BY_WORDS.get(bag - {"hand"}) if len(bag) > 1 else None)
    return (part, side, numbers) if part else None


def _grouped(names: tuple[str, ...]) -> dict[tuple[str, str], list[str]]:
    groups: dict[tuple[str, str], list[str]] = {}
    for name in names:
        found = part_of(name)
        if found:
            groups.setdefault(found[:2], []).append(name)
    return groups


def match_joints(source: tuple[str, ...], target: tuple[str, ...]) -> dict[str, str]:
    """Target joint -> source joint, for parts that both have; names are in skeleton order, root first.

    Where a part has several joints on each side (a spine), they are paired so that both ends meet and the rest is
    spread; a single-jointed limb part on the target takes the first of the source.
    """
    from_groups, to_groups = _grouped(source), _grouped(target)
    matches: dict[str, str] = {}
    for key, ours in to_groups.items():
        theirs = from_groups.get(key)
        if not theirs:
            continue
        if key[0] in ("spine", "neck") or key[0].startswith("finger"):
            matches |= _spread(ours, theirs)
        else:
            matches[ours[0]] = theirs[0]
    return matches


def _spread(ours: list[str], theirs: list[str]) -> dict[str, str]:
    if len(ours) == 1:
        return {ours[0]: theirs[0]}
    if len(theirs) >= len(ours):
        steps = [round(i * (len(theirs) - 1) / (len(ours) - 1)) for i in range(len(ours))]
        return {ours[i]: theirs[s] for i, s in enumerate(steps)}
    # Fewer sources: each drives one target, the last one the last; those between follow their parent.
    steps = [round((i + 1) * len(ours) / len(theirs)) - 1 for i in range(len(theirs))]
    return {ours[s]: theirs[i] for i, s in enumerate(steps)}
