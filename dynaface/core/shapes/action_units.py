"""The action units of the Facial Action Coding System as a second naming of the standard shapes."""

import re

from dynaface.core.shapes.standard import SHAPES

# Unit -> its shapes without side; a unit with several shapes moves them together.
_UNITS: dict[str, tuple[str, ...]] = {
    "AU1": ("browInnerUp",), "AU2": ("browOuterUp",), "AU4": ("browDown",), "AU5": ("eyeWide",), "AU6": ("cheekSquint",),
    "AU7": ("eyeSquint",), "AU9": ("noseSneer",), "AU10": ("mouthUpperUp",), "AU12": ("mouthSmile",),
    "AU14": ("mouthDimple",), "AU15": ("mouthFrown",), "AU16": ("mouthLowerDown",), "AU17": ("mouthShrugLower",),
    "AU18": ("mouthPucker",), "AU19": ("tongueOut",), "AU20": ("mouthStretch",), "AU22": ("mouthFunnel",),
    "AU24": ("mouthPress",), "AU25": ("mouthLowerDown", "mouthUpperUp"), "AU27": ("jawOpen",),
    "AU28": ("mouthRollLower", "mouthRollUpper"), "AU29": ("jawForward",), "AU34": ("cheekPuff",), "AU45": ("eyeBlink",),
    "AU63": ("eyeLookUp",), "AU64": ("eyeLookDown",),
}  # fmt: skip
# Units that are one half or a weaker form of another, or turn both eyes one way.
_OTHERS: dict[str, dict[str, float]] = {
    "AU26": {"jawOpen": 0.5},
    "AU43": {"eyeBlinkLeft": 1.0, "eyeBlinkRight": 1.0},
    "AU33": {"cheekPuff": 0.7},
    "AU30L": {"jawLeft": 1.0},
    "AU30R": {"jawRight": 1.0},
    "AU46L": {"eyeBlinkLeft": 1.0},
    "AU46R": {"eyeBlinkRight": 1.0},
    "AU61": {"eyeLookOutLeft": 1.0, "eyeLookInRight": 1.0},
    "AU62": {"eyeLookInLeft": 1.0, "eyeLookOutRight": 1.0},
}
_NAME = re.compile(
    r"(?:^|[^a-z])(?:au|actionunit|action[ _-]unit)[ _-]?0*(\d{1,2})[ _.-]?(l|r|left|right)?(?:[^a-z]|$)", re.I
)


def _sides(stem: str) -> tuple[str, ...]:
    return (stem,) if stem in SHAPES else (stem + "Left", stem + "Right")


def parts_of_unit(name: str) -> dict[str, float] | None:
    """Shape -> share for a name that speaks of an action unit ("AU12", "au_12_L", "AU01 left"), or None."""
    found = _NAME.search(name)
    if not found:
        return None
    unit, side = f"AU{int(found[1])}", (found[2] or "")[:1].upper()
    if unit + side in _OTHERS or unit in _OTHERS:
        return dict(_OTHERS.get(unit + side) or _OTHERS[unit])
    if unit not in _UNITS:
        return None
    shapes = [s for stem in _UNITS[unit] for s in _sides(stem)]
    if side:
        other = "Right" if side == "L" else "Left"
        shapes = [s for s in shapes if not s.endswith(other)]
    return dict.fromkeys(shapes, 1.0)


def _unit_of() -> dict[str, str]:
    out: dict[str, str] = {}
    for unit, stems in _UNITS.items():
        if len(stems) > 1:
            continue
        for shape in _sides(stems[0]):
            side = {"Left": "L", "Right": "R"}.get(shape[len(stems[0]) :], "")
            out[shape] = unit + side
    return out | {"jawLeft": "AU30L", "jawRight": "AU30R"}


UNIT_OF: dict[str, str] = _unit_of()
