"""What jaw, lips and tongue do for phones: dominance functions (Cohen & Massaro 1993, Modeling coarticulation in synthetic visual speech).

Each phone asks for a place of each articulator with a dominance that is greatest in its middle and falls to both sides, earlier and
more slowly for rounding, which comes ahead of time; the mouth goes where the phones of a moment ask it to on balance. What has to be shut
is shut: lips for m, b, p, the lower lip at the teeth for f and v.
"""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from dynaface.core.numeric.ease import eased
from dynaface.core.speech.phones import CLOSED, LIP, VOWELS
from dynaface.core.speech.words import SILENCE, Phone, Word, phones_of

Array = NDArray[np.float64]

_TONGUE_TIP = {"jaw": 0.13, "lower": 0.15, "upper": 0.04}
_HUSHED = {"jaw": 0.12, "funnel": 0.44, "round": 0.15, "upper": 0.12, "lower": 0.12}
_BACK = {"jaw": 0.21, "lower": 0.10}
ASKED: Mapping[str, Mapping[str, float]] = {
    "SIL": {},
    "AA": {"jaw": 0.50, "lower": 0.20, "upper": 0.12},
    "AE": {"jaw": 0.45, "wide": 0.35, "lower": 0.25, "upper": 0.16},
    "AH": {"jaw": 0.31, "lower": 0.14},
    "AO": {"jaw": 0.42, "funnel": 0.32, "round": 0.14},
    "AW": {"jaw": 0.44, "funnel": 0.25, "round": 0.20},
    "AY": {"jaw": 0.46, "wide": 0.22, "lower": 0.20, "upper": 0.10},
    "EH": {"jaw": 0.33, "wide": 0.22, "lower": 0.18},
    "ER": {"jaw": 0.20, "funnel": 0.25, "round": 0.18},
    "EY": {"jaw": 0.27, "wide": 0.40, "lower": 0.15},
    "IH": {"jaw": 0.20, "wide": 0.20, "lower": 0.08},
    "IY": {"jaw": 0.13, "wide": 0.52, "lower": 0.14},
    "OW": {"jaw": 0.31, "round": 0.40, "funnel": 0.26},
    "OY": {"jaw": 0.35, "funnel": 0.34, "round": 0.20},
    "UH": {"jaw": 0.20, "round": 0.32, "funnel": 0.10},
    "UW": {"jaw": 0.14, "round": 0.60, "funnel": 0.18},
    "UE": {"jaw": 0.13, "round": 0.56, "funnel": 0.24},
    "OE": {"jaw": 0.23, "round": 0.40, "funnel": 0.26},
    "M": {"jaw": 0.06, "press": 0.45},
    "B": {"jaw": 0.06, "press": 0.45},
    "P": {"jaw": 0.06, "press": 0.50},
    "F": {"jaw": 0.09, "bite": 0.45, "upper": 0.18},
    "V": {"jaw": 0.09, "bite": 0.42, "upper": 0.16},
    "W": {"jaw": 0.09, "round": 0.68, "funnel": 0.10},
    "R": {"jaw": 0.14, "funnel": 0.28, "round": 0.25},
    "L": {"jaw": 0.18, "lower": 0.14, "upper": 0.05},
    "TH": {**_TONGUE_TIP, "tongue": 0.14},
    "DH": {**_TONGUE_TIP, "tongue": 0.12},
    "T": _TONGUE_TIP,
    "D": _TONGUE_TIP,
    "N": _TONGUE_TIP,
    "S": {**_TONGUE_TIP, "jaw": 0.08, "wide": 0.12},
    "Z": {**_TONGUE_TIP, "jaw": 0.10, "wide": 0.10},
    "SH": _HUSHED,
    "ZH": _HUSHED,
    "CH": _HUSHED,
    "JH": _HUSHED,
    "K": _BACK,
    "G": _BACK,
    "NG": _BACK,
    "HH": {"jaw": 0.22},
    "Y": {"jaw": 0.12, "wide": 0.35},
}
"""Where each phone asks the articulators to be, 0..1; those that are not named are asked to be at rest."""

ARTICULATORS = ("jaw", "wide", "round", "funnel", "lower", "upper", "press", "bite", "tongue")
SHAPES_OF: Mapping[str, Mapping[str, float]] = {
    "jaw": {"jawOpen": 1.0},
    "wide": {"mouthSmileLeft": 0.55, "mouthSmileRight": 0.55, "mouthStretchLeft": 0.45, "mouthStretchRight": 0.45},
    "round": {"mouthPucker": 1.0},
    "funnel": {"mouthFunnel": 1.0},
    "lower": {"mouthLowerDownLeft": 1.0, "mouthLowerDownRight": 1.0},
    "upper": {"mouthUpperUpLeft": 1.0, "mouthUpperUpRight": 1.0},
    "press": {"mouthPressLeft": 0.9, "mouthPressRight": 0.9, "mouthRollLower": 0.4, "mouthRollUpper": 0.3},
    "bite": {"mouthRollLower": 1.0, "mouthShrugLower": 0.2},
    "tongue": {"tongueOut": 1.0},
}
LEAD, LAG = 12.0, 16.0  # 1/s by which a phone's dominance falls before and after it
EARLY = 9.0  # 1/s for rounding before it
LONG = 0.2  # seconds: what lasts longer asks no later for its place
REACH = 0.6  # seconds beyond which it is nothing
BEND = 1.5  # how squarely it falls
STRONG = {
    **dict.fromkeys(CLOSED, 6.0),
    **dict.fromkeys(LIP, 4.0),
    "W": 2.2,
    "UW": 1.8,
    "UE": 1.8,
    "SH": 1.8,
    "CH": 1.8,
    "JH": 1.8,
    "SIL": 0.8,
}
CLOSE_LEAD, CLOSE_LAG = 0.05, 0.05  # seconds over which lips come together for m, b, p and part again


@dataclass(frozen=True)
class Style:
    """How somebody speaks: amounts of jaw, lips and tongue, 0..2; energy: how far louder words open wider, 0..2."""

    jaw: float = 1.0
    lips: float = 1.0
    tongue: float = 1.0
    energy: float = 1.0


PLAIN = Style()


def mouth(words: Sequence[Word], times: Array, style: Style = PLAIN) -> dict[str, Array]:
    """Shape -> (frames,) weights of speech at times (frames,) in seconds, rising."""
    said = phones_of(words)
    if not said or not len(times):
        return {}
    end = max(p.last for p, _ in said)
    asked = {a: np.zeros(len(times)) for a in ARTICULATORS}
    total = {a: np.full(len(times), 1e-4) for a in ARTICULATORS}
    shut, bitten = np.zeros(len(times)), np.zeros(len(times))
    # Silence lasts on both sides of what is said.
    first = min(p.first for p, _ in said)
    before, after = Phone(SILENCE, first - 2.0, first), Phone(SILENCE, end, end + 2.0)
    for phone, word in [(before, None), *said, (after, None)]:
        name, begins, ends = phone.name, phone.first, phone.last
        low, high = np.searchsorted(times, [begins - REACH, ends + REACH])
        near = times[low:high]
        wanted, strength = _wanted(phone, word, style), STRONG.get(name, 1.0)
        usual, early = (strength * _fall(near, begins, ends, ahead, LAG) for ahead in (LEAD, EARLY))
        for articulator in ARTICULATORS:
            dominance = early if articulator in ("round", "funnel") else usual
            asked[articulator][low:high] += dominance * wanted.get(articulator, 0.0)
            total[articulator][low:high] += dominance
        if name in CLOSED:
            shut[low:high] = np.maximum(shut[low:high], _held(near, begins, ends))
        if name in LIP:
            bitten[low:high] = np.maximum(bitten[low:high], _held(near, begins, ends))
    at = {a: asked[a] / total[a] for a in ARTICULATORS}
    return _shapes(at, shut, bitten, style)


def _wanted(phone: Phone, word: Word | None, style: Style) -> dict[str, float]:
    """Where a phone of a word asks the articulators to be."""
    wanted = dict(ASKED.get(phone.name, ASKED["AH"]))
    lips, jaw = (word.lips * phone.lips, word.jaw * phone.jaw) if word else (1.0, 1.0)
    loud = 1.0 + style.energy * (word.loud - 1.0) if word and phone.name in VOWELS else 1.0
    for articulator in wanted:
        amount = (
            style.jaw * jaw * loud
            if articulator == "jaw"
            else style.tongue
            if articulator == "tongue"
            else style.lips * lips
        )
        wanted[articulator] *= max(amount, 0.0)
    return wanted


def _fall(times: Array, first: float, last: float, lead: float, lag: float) -> Array:
    """(frames,) dominance 0..1 of what lasts from `first` to `last`."""
    flat = 0.3 * min(last - first, LONG)
    before = np.maximum(first + flat - times, 0) * lead
    after = np.maximum(times - (last - flat), 0) * lag
    return np.asarray(np.exp(-((before + after) ** BEND)))


def _held(times: Array, first: float, last: float) -> Array:
    """(frames,) 1 from `first` to `last`, softly 0 beside it."""
    rise = (times - (first - CLOSE_LEAD)) / CLOSE_LEAD
    fall = ((last + CLOSE_LAG) - times) / CLOSE_LAG
    return eased(np.minimum(rise, fall))


def _shapes(at: dict[str, Array], shut: Array, bitten: Array, style: Style) -> dict[str, Array]:
    """Articulators as shapes, with what has to be shut held shut: however far the jaw stays open, the lips meet."""
    lips = min(style.lips, 1.0)
    for articulator in ("lower", "upper", "funnel", "wide"):
        at[articulator] = at[articulator] * (1 - 0.85 * shut * lips)
    for articulator in ("lower", "funnel"):
        at[articulator] = at[articulator] * (1 - 0.7 * bitten * lips)
    out: dict[str, Array] = {}
    for articulator, values in at.items():
        for shape, share in SHAPES_OF[articulator].items():
            out[shape] = out[shape] + share * values if shape in out else share * values
    out["mouthClose"] = out["jawOpen"] * shut * lips
    return {shape: np.clip(values, 0, 1) for shape, values in out.items() if values.any()}
