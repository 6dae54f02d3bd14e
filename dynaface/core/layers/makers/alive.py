"""Alive: breath, faint sway of the head and small steps of the eyes, for holds where a character waits.

Eyes that hold a look step by a fraction of a degree one to two times a second (Leigh & Zee, The Neurology of Eye Movements).
"""

from collections.abc import Mapping
from typing import Any

import numpy as np

from dynaface.core.curves.channels import Channels
from dynaface.core.layers.around import Around
from dynaface.core.layers.gaze import steps
from dynaface.core.layers.maker import Made, Maker
from dynaface.core.layers.weight import Amounts
from dynaface.core.numeric.ease import eased
from dynaface.core.parameters import Parameter
from dynaface.core.shapes.gaze import looks_from_angles
from dynaface.core.shapes.regions import REGION
from dynaface.core.shapes.standard import full_range

SLOW = 1.7  # seconds between the places that a swaying head drifts through
STEP = 0.8  # seconds that the eyes hold between two steps, on average
WAITS = 0.25  # of full activity a second, summed over all channels: less is waiting
SOFT = 0.5  # seconds over which it comes and goes


def _make(below: Channels, parameters: Mapping[str, Any], _around: Around) -> Made:
    frames, rate = below.frames, float(below.rate)
    if frames < 2:
        return {}
    random = np.random.default_rng(int(parameters["seed"]))
    here = np.ones(frames) if parameters["where"] == "everywhere" else waiting(below)
    at = np.arange(frames) / rate
    breath = np.sin(2 * np.pi * at * parameters["rate"] / 60) * parameters["breath"]
    sway = {n: _drift(at, random) * parameters["sway"] for n in ("headTurn", "headNod", "headTilt")}
    out: dict[str, Amounts] = {n: curve * here for n, curve in sway.items()}
    out["headNod"] = out["headNod"] + 0.6 * breath * here
    out["noseSneerLeft"] = out["noseSneerRight"] = np.maximum(breath, 0) * 0.05 * here
    turn, nod = (steps(at, random, STEP) * parameters["eyes"] * here for _ in range(2))
    for side in ("Left", "Right"):
        for way, curve in looks_from_angles(turn, nod, side.lower()).items():
            out[f"eyeLook{way}{side}"] = curve
    return {channel: curve for channel, curve in out.items() if curve.any()}


def waiting(below: Channels) -> Amounts:
    """(frames,) 1 where hardly anything moves, 0 where it does, going softly from one to the other; gaps count as moving."""
    kept = [i for i, n in enumerate(below.names) if REGION[n] not in ("lids", "gaze", "extra")]
    scale = np.array([full_range(below.names[i]) for i in kept])
    values = below.values[:, kept].astype(np.float64) / scale
    speed = np.abs(np.gradient(values, axis=0)).sum(axis=1) * float(below.rate)
    width = max(int(SOFT * float(below.rate)), 1)
    still = (_mean(np.where(np.isnan(speed), np.inf, speed).clip(max=1e3), width) < WAITS).astype(np.float64)
    # Twice a running mean goes in and out without a corner; the narrowing keeps it from reaching into what moves.
    return _mean(_mean(np.where(_mean(still, 2 * width) > 1 - 1e-9, 1.0, 0.0), width), width)


def _mean(values: Amounts, width: int) -> Amounts:
    """(n,) running mean over `width` values to each side, fewer at the ends."""
    sums = np.concatenate([[0.0], np.cumsum(values)])
    low = np.maximum(np.arange(len(values)) - width, 0)
    high = np.minimum(np.arange(len(values)) + width + 1, len(values))
    return np.asarray((sums[high] - sums[low]) / (high - low))


def _drift(at: Amounts, random: np.random.Generator) -> Amounts:
    """(n,) smooth wandering within about -1..1."""
    places = random.uniform(-1, 1, int(at[-1] / SLOW) + 3)
    part = at / SLOW
    whole = part.astype(int)
    return np.asarray(places[whole] + (places[whole + 1] - places[whole]) * eased(part - whole))


MAKER = Maker(
    "alive",
    "Alive",
    "Breath, faint sway and small steps of the eyes while a character waits",
    (
        Parameter("where", "Where", "choice", "where it waits", options=("where it waits", "everywhere")),
        Parameter("breath", "Breath", "number", 0.5, "", 0, 2, 0.01),
        Parameter("rate", "Breaths", "number", 14.0, "a minute", 4, 40, 0.5),
        Parameter("sway", "Sway", "number", 0.6, "deg", 0, 5, 0.05),
        Parameter("eyes", "Eyes step", "number", 0.5, "deg", 0, 3, 0.05),
        Parameter("seed", "Chance", "number", 1.0, "", 0, 9999, 1, help="Another number gives other movements"),
    ),
    _make,
)
