"""Where the sound of a take belongs, estimated from the lips."""

from typing import Any

import numpy as np

from dynaface.core.clock.lipsync import estimate
from dynaface.core.errors import InputError
from dynaface.services.evaluate_take import prepare, raw_channels
from dynaface.services.load_source import load_sound
from dynaface.services.work import Work, source_for


def estimate_sync(work: Work, take: str) -> dict[str, Any]:
    """The offset in seconds with its confidence and the picture of the fit."""
    bench = prepare(work, take)
    held = bench.take.body["sources"].get("sound")
    if not held:
        raise InputError("this take has no sound", hint="Bring in a WAV first")
    with work.store.unit() as unit:
        source = source_for(work, unit, held)
    found = estimate(raw_channels(bench), load_sound(work, source))
    pick = slice(None, None, 2)
    return {
        "offset": found.offset,
        "confidence": found.confidence,
        "confident": found.confident,
        "lags": np.round(found.lags[pick], 4).tolist(),
        "scores": np.round(found.scores[pick], 4).tolist(),
    }
