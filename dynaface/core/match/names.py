"""The part of the body that a joint's name speaks of."""

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
