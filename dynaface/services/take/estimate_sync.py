"""Where the sound of a take belongs, estimated from the lips."""

from typing import Any

import numpy as np

from dynaface.core.errors import InputError
from dynaface.core.sync.lips_to_sound import estimate
from dynaface.services.load_source import load_sound
from dynaface.services.take.prepare_take import prepare_take
from dynaface.services.work import Work


def estimate_sync(work: Work, take: str) -> dict[str, Any]:
    """The offset in seconds with its confidence and the picture of the fit."""
    prepared = prepare_take(work, take)
    source = prepared.snapshot.sound
    if source is None:
        raise InputError("this take has no sound", hint="Bring in a WAV first")
    found = estimate(prepared.raw, load_sound(work, source))
    pick = slice(None, None, 2)
    return {
        "offset": found.offset,
        "confidence": found.confidence,
        "confident": found.confident,
        "lags": np.round(found.lags[pick], 4).tolist(),
        "scores": np.round(found.scores[pick], 4).tolist(),
    }
