"""Speech to lips and jaw: dominance functions (Cohen & Massaro 1993) over phones with times."""

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

Curve = NDArray[np.float64]


@dataclass(frozen=True)
class Phone:
    """A phone (ARPAbet without stress, SIL for silence) with its start and end in seconds."""

    name: str
    start: float
    end: float


# Phone -> weights of shapes; a name without side stands for both.
_OPEN = {"jawOpen": 0.50, "mouthLowerDown": 0.22, "mouthUpperUp": 0.14}
_CLOSED = {"jawOpen": 0.035, "mouthPress": 0.42, "mouthRollLower": 0.20, "mouthRollUpper": 0.16}
_TIP = {"jawOpen": 0.13, "mouthLowerDown": 0.16, "mouthStretch": 0.07, "mouthUpperUp": 0.06}
_HUSH = {"jawOpen": 0.11, "mouthFunnel": 0.46, "mouthPucker": 0.18, "mouthUpperUp": 0.14, "mouthLowerDown": 0.12}
_BACK = {"jawOpen": 0.21, "mouthLowerDown": 0.10}
TARGETS: dict[str, dict[str, float]] = {
    "SIL": {"jawOpen": 0.015},
    "AA": _OPEN, "AH": {"jawOpen": 0.33, "mouthLowerDown": 0.15}, "AY": {**_OPEN, "mouthSmile": 0.12},
    "AE": {"jawOpen": 0.44, "mouthStretch": 0.16, "mouthSmile": 0.10, "mouthLowerDown": 0.26, "mouthUpperUp": 0.18},
    "AO": {"jawOpen": 0.43, "mouthFunnel": 0.34, "mouthPucker": 0.12},
    "AW": {"jawOpen": 0.45, "mouthFunnel": 0.26, "mouthPucker": 0.22},
    "EH": {"jawOpen": 0.33, "mouthStretch": 0.13, "mouthLowerDown": 0.18},
    "ER": {"jawOpen": 0.19, "mouthFunnel": 0.28, "mouthPucker": 0.16},
    "EY": {"jawOpen": 0.27, "mouthSmile": 0.17, "mouthStretch": 0.18, "mouthLowerDown": 0.14},
    "IH": {"jawOpen": 0.20, "mouthSmile": 0.10, "mouthStretch": 0.08},
    "IY": {"jawOpen": 0.12, "mouthSmile": 0.27, "mouthStretch": 0.22, "mouthLowerDown": 0.13},
    "OW": {"jawOpen": 0.30, "mouthPucker": 0.42, "mouthFunnel": 0.26}, "OY": {"jawOpen": 0.35, "mouthFunnel": 0.35},
    "UH": {"jawOpen": 0.21, "mouthPucker": 0.30}, "UW": {"jawOpen": 0.14, "mouthPucker": 0.62, "mouthFunnel": 0.18},
    "M": _CLOSED, "B": _CLOSED, "P": _CLOSED,
    "F": {"jawOpen": 0.07, "mouthRollLower": 0.42, "mouthUpperUp": 0.20, "mouthShrugLower": 0.08},
    "TH": {**_TIP, "tongueOut": 0.12},
    "T": _TIP, "D": _TIP, "N": _TIP, "L": {**_TIP, "jawOpen": 0.18}, "S": {**_TIP, "jawOpen": 0.07}, "Z": _TIP,
    "SH": _HUSH, "K": _BACK, "G": _BACK, "NG": _BACK, "HH": {"jawOpen": 0.22},
    "R": {"jawOpen": 0.13, "mouthFunnel": 0.30, "mouthPucker": 0.26}, "W": {"jawOpen": 0.08, "mouthPucker": 0.70},
    "Y": {"jawOpen": 0.11, "mouthSmile": 0.18},
}  # fmt: skip
TARGETS |= {"V": TARGETS["F"], "DH": TARGETS["TH"], "ZH": _HUSH, "CH": _HUSH, "JH": _HUSH}
# How strongly a phone insists on its target, and how fast its influence falls (1/s).
_STRENGTH = {**dict.fromkeys(("M", "B", "P"), 7.0), **dict.fromkeys(("F", "V"), 4.0), **dict.fromkeys(("W", "UW", "SH"), 2.2),
             "SIL": 0.8}  # fmt: skip
_FALL = {**dict.fromkeys(("M", "B", "P"), 26.0), **dict.fromkeys(("F", "V"), 20.0), "SIL": 9.0}
VOWELS = frozenset(("AA", "AE", "AH", "AO", "AW", "AY", "EH", "ER", "EY", "IH", "IY", "OW", "OY", "UH", "UW"))


def lips(phones: Sequence[Phone], times: Curve, rng: np.random.Generator) -> dict[str, Curve]:
    """Shape (sides apart) -> (frames,) weights of speech at times in seconds; each phone is said a little differently."""
    names = sorted({n for t in TARGETS.values() for n in t})
    total: Curve = np.full(len(times), 1e-3)
    sums: dict[str, Curve] = {n: np.zeros(len(times)) for n in names}
    for phone in phones:
        target = TARGETS.get(phone.name, TARGETS["SIL"])
        half = max((phone.end - phone.start) / 2, 0.015)
        distance = np.maximum(np.abs(times - (phone.start + phone.end) / 2) - half * 0.55, 0)
        fall = _FALL.get(phone.name, 13.0) * rng.uniform(0.9, 1.1)
        weight: Curve = _STRENGTH.get(phone.name, 1.0) * np.exp(-((distance * fall) ** 1.3))
        effort = 1.0 if phone.name in ("M", "B", "P") else float(rng.normal(1.0, 0.12))
        total = total + weight
        for name, value in target.items():
            sums[name] = sums[name] + weight * value * effort
    out: dict[str, Curve] = {}
    for name, summed in sums.items():
        curve = summed / total
        if name.startswith(("jaw", "tongue")) or name in (
            "mouthFunnel",
            "mouthPucker",
            "mouthRollLower",
            "mouthRollUpper",
            "mouthShrugLower",
        ):
            out[name] = curve
        else:  # two sides never do quite the same
            lean = 1 + 0.10 * np.sin(times * rng.uniform(0.4, 0.9) + rng.uniform(0, 6.28)) + rng.normal(0, 0.04)
            out[f"{name}Left"], out[f"{name}Right"] = curve * lean, curve * (2 - lean)
    return out
