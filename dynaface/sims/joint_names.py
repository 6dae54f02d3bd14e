"""How files name joints: in many manners, some of which say nothing or mislead. Each takes what the joints truly are."""

from collections.abc import Callable, Sequence

import numpy as np

_DIGITS = {1: "Thumb", 2: "Index", 3: "Middle", 4: "Ring", 5: "Little"}
_SHIFTED = {1: "Finger1", 2: "Middle", 3: "Index", 4: "Pinky", 5: "Ring"}
_OTHER = {"hips": "Huefte", "spine": "Rumpf", "neck": "Hals", "head": "Kopf", "clavicle": "Schluessel", "upperarm": "Oberarm",
          "lowerarm": "Unterarm", "hand": "Hd", "upperleg": "Schenkel", "lowerleg": "Wade", "foot": "Fuss", "toe": "Zehe",
          "root": "Boden", "pelvis": "Becken", "twist": "Dreh", "tip": "Ende", "finger": "Fing",
          "hair": "Haar", "coat": "Mantel", "bag": "Sack", "tool": "Griff"}  # fmt: skip
_PLAIN = {"hips": "Hips", "spine": "Spine", "neck": "Neck", "head": "Head", "clavicle": "Shoulder", "upperarm": "Arm", "lowerarm": "ForeArm",
          "hand": "Hand", "upperleg": "UpLeg", "lowerleg": "Leg", "foot": "Foot", "toe": "ToeBase", "root": "Origin", "pelvis": "LegBase",
          "tip": "End", "hair": "Hair", "coat": "Coat", "bag": "Bag", "tool": "Grip"}  # fmt: skip
_SPOKEN = {**_PLAIN, "spine": "Torso", "clavicle": "Collar", "upperarm": "UpperArm", "lowerarm": "LowerArm", "upperleg": "Thigh",
           "lowerleg": "Shin", "hand": "Wrist", "foot": "Ankle"}  # fmt: skip
Naming = Callable[[Sequence[str], np.random.Generator], list[str]]


def _once(names: list[str]) -> list[str]:
    """Every name once: what comes again is numbered."""
    seen: dict[str, int] = {}
    out = []
    for name in names:
        seen[name] = seen.get(name, 0) + 1
        out.append(name if seen[name] == 1 else f"{name}.{seen[name]:03}")
    return out


def _worded(truth: str, parts: dict[str, str], digits: dict[int, str]) -> tuple[str, str]:
    """(side, name) of a joint."""
    words = truth.split()
    side = words.pop(0) if words[0] in ("L", "R") else ""
    if words[0] == "finger":
        return side, f"{digits[int(words[1])]}{words[2]}"
    if words[0] == "twist":
        return side, f"{parts[words[1]]}Twist{words[2]}"
    return side, parts[words[0]] + "".join(words[1:])


def _plain(truth: Sequence[str], rng: np.random.Generator) -> list[str]:
    return _once([{"L": "Left", "R": "Right", "": ""}[s] + n for s, n in (_worded(t, _PLAIN, _DIGITS) for t in truth)])


def _prefixed(truth: Sequence[str], rng: np.random.Generator) -> list[str]:
    prefix = "".join(rng.choice(list("abcdefgh"), 4))
    return [f"{prefix}:{name}" for name in _plain(truth, rng)]


def _snake(truth: Sequence[str], rng: np.random.Generator) -> list[str]:
    words = (_worded(t, _PLAIN, _DIGITS) for t in truth)
    return _once([f"def_{n.lower()}" + (f"_{s.lower()}" if s else "") for s, n in words])


def _spoken(truth: Sequence[str], rng: np.random.Generator) -> list[str]:
    return _once([(f"{s}_" if s else "") + n for s, n in (_worded(t, _SPOKEN, _DIGITS) for t in truth)])


def _misleading(truth: Sequence[str], rng: np.random.Generator) -> list[str]:
    words = (_worded(t, _PLAIN, _SHIFTED) for t in truth)
    return _once([{"L": "Left", "R": "Right", "": ""}[s] + n for s, n in words])


def _other(truth: Sequence[str], rng: np.random.Generator) -> list[str]:
    digits = {d: f"Fing{d}_" for d in range(1, 6)}
    return _once([n + {"L": "_li", "R": "_re", "": ""}[s] for s, n in (_worded(t, _OTHER, digits) for t in truth)])


def _numbers(truth: Sequence[str], rng: np.random.Generator) -> list[str]:
    return [f"joint_{n:03}" for n in rng.permutation(len(truth))]


def _nonsense(truth: Sequence[str], rng: np.random.Generator) -> list[str]:
    return _once(["".join(rng.choice(list("bdfgklmnprstvz"), rng.integers(3, 7))) for _ in truth])


def _swapped(truth: Sequence[str], rng: np.random.Generator) -> list[str]:
    names = _plain(truth, rng)
    return [names[i] for i in rng.permutation(len(names))]


NAMINGS: dict[str, Naming] = {"plain": _plain, "prefixed": _prefixed, "snake": _snake, "spoken": _spoken, "misleading": _misleading,
                              "other": _other, "numbers": _numbers, "nonsense": _nonsense, "swapped": _swapped}  # fmt: skip
