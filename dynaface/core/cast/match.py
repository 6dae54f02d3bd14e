"""Which channels drive a target: by its name, by what it does to the mesh, or by hand."""

from collections.abc import Mapping
from dataclasses import dataclass
from functools import lru_cache
from typing import Literal

from dynaface.core.shapes.action_units import parts_of_unit
from dynaface.core.shapes.spelling import match_name, words_of
from dynaface.core.shapes.standard import SHAPES

How = Literal["name", "unit", "split", "shape", "mixture", "hand"]


@dataclass(frozen=True)
class Match:
    """parts: (shape, gain) pairs that are added up; how it was found; confidence: 0..1."""

    parts: tuple[tuple[str, float], ...]
    how: How
    confidence: float = 1.0

    @property
    def shape(self) -> str:
        """The shape with the greatest gain, "" where there is none."""
        return strongest(self.parts)


def strongest(parts: tuple[tuple[str, float], ...]) -> str:
    """The shape with the greatest gain, "" where there is none."""
    return max(parts, key=lambda p: abs(p[1]))[0] if parts else ""


# Words that say which piece of a shape a target is; without them the name may be a standard one.
_PIECES = {"upper", "lower", "inner", "outer", "left", "right", "l", "r", "mid", "middle", "corner", "a", "b", "c"}
# Mouth poses of speech and plain emotions, for characters that have nothing finer.
_POSES: dict[str, dict[str, float]] = {
    "aa": {"jawOpen": 1.0},
    "ah": {"jawOpen": 1.0},
    "ih": {"mouthStretchLeft": 0.5, "mouthStretchRight": 0.5, "jawOpen": 0.15},
    "ee": {"mouthStretchLeft": 0.5, "mouthStretchRight": 0.5},
    "oh": {"mouthFunnel": 0.8, "jawOpen": 0.3},
    "ou": {"mouthPucker": 0.8},
    "oo": {"mouthPucker": 0.8},
    "mbp": {"mouthPressLeft": 0.4, "mouthPressRight": 0.4, "mouthClose": 0.6},
    "pp": {"mouthPressLeft": 0.4, "mouthPressRight": 0.4, "mouthClose": 0.6},
    "ff": {"mouthRollLower": 0.8},
    "fv": {"mouthRollLower": 0.8},
    "blink": {"eyeBlinkLeft": 0.5, "eyeBlinkRight": 0.5},
    "happy": {"mouthSmileLeft": 0.5, "mouthSmileRight": 0.5},
    "joy": {"mouthSmileLeft": 0.5, "mouthSmileRight": 0.5},
    "sad": {"mouthFrownLeft": 0.5, "mouthFrownRight": 0.5},
    "sorrow": {"mouthFrownLeft": 0.5, "mouthFrownRight": 0.5},
    "angry": {"browDownLeft": 0.5, "browDownRight": 0.5},
    "anger": {"browDownLeft": 0.5, "browDownRight": 0.5},
    "surprised": {"browInnerUp": 0.4, "browOuterUpLeft": 0.3, "browOuterUpRight": 0.3},
    "surprise": {"browInnerUp": 0.4, "browOuterUpLeft": 0.3, "browOuterUpRight": 0.3},
    "lookup": {"eyeLookUpLeft": 0.5, "eyeLookUpRight": 0.5},
    "lookdown": {"eyeLookDownLeft": 0.5, "eyeLookDownRight": 0.5},
}
_NOISE = {"viseme", "mouth", "face", "emotion", "expression", "pose", "bs", "shape"}
# A word of the face in front of a pose changes what it says ("brow_sad"); any other is a prefix.
_ANATOMY = {w for channel in SHAPES for w in words_of(channel)}
MAX_PREFIX = 3  # words


@lru_cache(maxsize=8192)
def match_by_name(target: str) -> Match | None:
    """A target whose name says what drives it: a standard shape in any spelling, an action unit, a piece of a shape
    ("cheekPuff_L"), both sides of one ("mouthSmile"), a mouth pose or an emotion. None otherwise.
    """
    unit = parts_of_unit(target)
    found = None if unit else match_name(target)
    if found in SHAPES:
        return Match(((str(found), 1.0),), "name")
    if unit:
        # One target for both sides moves with their mean, so that a whole smile is a whole smile.
        share = 1 / max(len({s.removesuffix("Left").removesuffix("Right") for s in unit}), 1)
        sided = {s: share * g / (2 if _paired(s, unit) else 1) for s, g in unit.items()}
        return Match(tuple(sided.items()), "unit", 0.95)
    both = _both_sides(target)
    if both:
        return Match(both, "split", 0.95)
    return _piece(target) or _pose(target)


def _paired(shape: str, among: Mapping[str, float]) -> bool:
    stem = shape.removesuffix("Left").removesuffix("Right")
    return stem != shape and stem + "Left" in among and stem + "Right" in among


def _both_sides(stem: str) -> tuple[tuple[str, float], ...]:
    """Both sides of a shape that has two; jawLeft and mouthLeft are ways to go, not sides."""
    found = [match_name(f"{stem}_{side}") for side in ("left", "right")]
    if found[0] == found[1] or not all(f in SHAPES for f in found) or found[0] in ("jawLeft", "mouthLeft"):
        return ()
    return tuple((str(f), 0.5) for f in found)


def _piece(target: str) -> Match | None:
    words = words_of(target)
    kept = [w for w in words if w not in _PIECES and not w.isdigit()]
    if kept == words or not kept:
        return None
    sides = [w for w in words if w in ("left", "right", "l", "r")]
    for tail in ([*kept, *sides], kept, [w for w in words if w not in ("left", "right", "l", "r") and not w.isdigit()]):
        shape = match_name("_".join(tail))
        if shape in SHAPES:
            return Match(((shape, 1.0),), "split", 0.9)
    both = _both_sides("_".join(kept))
    return Match(both, "split", 0.8) if both else None


def _pose(target: str) -> Match | None:
    words = [w for w in words_of(target.rsplit(".", 1)[-1].rsplit(":", 1)[-1]) if w not in _NOISE and not w.isdigit()]
    for prefix in range(min(MAX_PREFIX + 1, len(words))):
        if prefix and words[prefix - 1] in _ANATOMY:
            break
        parts = _POSES.get("".join(words[prefix:]))
        if parts:
            return Match(tuple(parts.items()), "mixture", 0.6)
    return None
