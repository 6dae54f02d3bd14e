"""Where the body of a take belongs in time: found from what both recordings saw or heard, in every way that says something."""

from collections.abc import Callable
from typing import Any

import numpy as np

from dynaface.core.body.skeleton import Motion
from dynaface.core.errors import InputError
from dynaface.core.perform.join import nudge_to
from dynaface.core.sync.claps import by_claps, claps_of_body, claps_of_sound
from dynaface.core.sync.fit import Fit, thinned
from dynaface.core.sync.motion import by_head_motion
from dynaface.services.load_source import load_sound
from dynaface.services.take.prepare_take import PreparedTake, prepare_take
from dynaface.services.work import Work

Way = Callable[[Work, PreparedTake, Motion], Fit]


def _by_motion(_: Work, prepared: PreparedTake, body: Motion) -> Fit:
    return by_head_motion(prepared.raw, body)


def _by_clap(work: Work, prepared: PreparedTake, body: Motion) -> Fit:
    source = prepared.snapshot.sound
    if source is None:
        raise InputError("this take has no sound in which a clap could be heard", hint="Bring in a WAV first")
    found = by_claps(claps_of_sound(load_sound(work, source)), claps_of_body(body))
    # The sound lies later in the take by its offset.
    late = prepared.take.body.sound_offset
    return Fit(found.offset + late, found.confidence, found.lags + late, found.scores)


WAYS: dict[str, Way] = {"motion": _by_motion, "clap": _by_clap}
"""By name: how the body can be found."""


def find_body(work: Work, take: str) -> dict[str, Any]:
    """{"fits": the ways that found a place, the surest first, "silent": [{"how", "why"}] of those that did not}. Each fit has "offset": seconds of the
    take at which the body begins, "nudge": the frames for the take's join that bring it there, whether it can be relied on,
    and the picture of the fit. Raises InputError without a body or without a face.
    """
    prepared = prepare_take(work, take)
    body = prepared.snapshot.body
    if body is None:
        raise InputError("this take has no body", hint="Bring one in first")
    fits, silent = [], []
    for how, way in WAYS.items():
        try:
            found = way(work, prepared, body)
        except InputError as error:
            silent.append({"how": how, "why": error.message})
            continue
        fits.append(_described(how, found, prepared, body))
    return {"fits": sorted(fits, key=lambda f: -f["confidence"]), "silent": silent}


def _described(how: str, found: Fit, prepared: PreparedTake, body: Motion) -> dict[str, Any]:
    lags, scores = thinned(found)
    return {
        "how": how,
        "offset": round(found.offset, 5),
        "nudge": round(nudge_to(prepared.raw, body.timecode, found.offset), 3),
        "confidence": round(found.confidence, 3),
        "confident": found.confident,
        "lags": np.round(lags, 4).tolist(),
        "scores": np.round(scores, 4).tolist(),
    }
