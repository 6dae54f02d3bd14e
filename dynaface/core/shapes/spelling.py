"""Matches the many spellings of a channel's name to the standard one.

A name is cut into words (at case changes, digits, separators); words for a side become left or right wherever they
stand; the rest is compared as a bag of words after synonyms. So eye_blink_L, left_eye_blink, "Eye Blink L",
blink.eye.L and EyeBlink_l are all eyeBlinkLeft.
"""

import re
from functools import lru_cache

from dynaface.core.shapes.action_units import parts_of_unit
from dynaface.core.shapes.standard import CHANNELS

_WORD = re.compile(r"[A-Z]+(?![a-z])|[A-Z]?[a-z]+|\d+")
_SIDES = {"l": "left", "lf": "left", "lft": "left", "left": "left", "r": "right", "rt": "right", "rgt": "right",
          "right": "right"}  # fmt: skip
_SYNONYMS = {
    "yaw": "turn", "pitch": "nod", "roll": "tilt", "eyes": "eye", "brows": "brow", "eyebrow": "brow", "cheeks": "cheek",
    "lips": "mouth", "rotation": "", "rot": "", "deg": "", "degrees": "", "mm": "", "rad": "", "radians": "", "weight": "",
    "blendshape": "", "shape": "", "value": "", "bs": "", "blend": "", "morph": "", "angle": "",
}  # fmt: skip
# "roll" is also part of a lip shape, so it is a synonym only beside a head or an eye.
_KEEP_ROLL = {"mouth", "lower", "upper"}


def _key(words: list[str]) -> tuple[str, ...]:
    keep_roll = bool(_KEEP_ROLL & set(words))
    out = []
    for word in words:
        if word in _SIDES:
            out.append(_SIDES[word])
            continue
        replaced = word if word == "roll" and keep_roll else _SYNONYMS.get(word, word)
        if replaced:
            out.append(replaced)
    return tuple(sorted(out))


def words_of(name: str) -> list[str]:
    """The lower-case words of a name: "eyeBlink_L" -> ["eye", "blink", "l"]."""
    return [w.lower() for w in _WORD.findall(name)]


def _variants(channel: str) -> list[list[str]]:
    words = words_of(channel)
    found = [words]
    if words[0] == "gaze":  # eye angles go by either word
        found += [["eye", *words[1:]], ["gaze", "eye", *words[1:]]]
    if words == ["head", "turn"]:
        found += [["turn"], ["head", "y"]]
    if words == ["head", "nod"]:
        found += [["nod"], ["head", "x"]]
    if words == ["head", "tilt"]:
        found += [["tilt"], ["head", "z"]]
    return found


_BY_KEY = {_key(v): c for c in CHANNELS for v in _variants(c)}
# All in one case, nothing marks the words: compare the run of letters, with the side in any of its places.
_BY_RUN: dict[str, str] = {}
for _c in CHANNELS:
    _w = words_of(_c)
    _runs = ["".join(_w)]
    if _w[-1] in ("left", "right"):
        _stem = "".join(_w[:-1])
        _runs += [_stem + _w[-1][0], _w[-1] + _stem, _w[-1][0] + _stem]
    for _r in _runs:
        _BY_RUN.setdefault(_r, _c)


@lru_cache(maxsize=4096)
def match_name(name: str) -> str | None:
    """The standard channel that the name spells, or None.

    A prefix such as a mesh name or namespace ("face_mesh:jawOpen", "Head.jawOpen") is taken off if needed.
    """
    tails = [name]
    for separator in (":", "|", "/", "."):
        if separator in name:
            tails.append(name.rsplit(separator, 1)[1])
    for tail in tails:
        words = words_of(tail)
        if not words:
            continue
        found = _BY_KEY.get(_key(words)) or _BY_RUN.get("".join(words))
        if found:
            return found
    unit = parts_of_unit(name) or {}
    if list(unit.values()) == [1.0]:
        return next(iter(unit))
    words = words_of(name)
    for start in range(1, min(4, len(words) - 1)):
        if words[start - 1] in _SIDES:
            break
        found = _BY_KEY.get(_key(words[start:]))
        if found:
            return found
    return None
