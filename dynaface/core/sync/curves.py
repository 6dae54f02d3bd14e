"""Two face takes of one moment by their lids and jaw: blinks are short and never alike twice."""

import numpy as np
from scipy.ndimage import gaussian_filter1d

from dynaface.core.curves.channels import Channels
from dynaface.core.curves.gaps import bridged
from dynaface.core.errors import InputError
from dynaface.core.sync.fit import Fit, Numbers, correlated, fitted, standard

RATE = 120.0
BLUR = 0.025  # seconds
LEAST = 2.0  # seconds of overlap
FLOOR, SPAN, MARGIN, APART = 0.3, 0.25, 0.2, 0.15


def by_lids_and_jaw(one: Channels, other: Channels) -> Fit:
    """Where the other take begins against the first; raises InputError where one of them does nothing."""
    a, b = _changes(one), _changes(other)
    if any(np.abs(s).max(initial=0) < 1e-3 for s in (a, b)):
        raise InputError(
            "one of the takes has neither blinks nor a jaw that moves", hint="Line up by sound or by timecode"
        )
    return fitted(*correlated(standard(a), standard(b), RATE, LEAST), APART, FLOOR, SPAN, MARGIN)


def _changes(take: Channels) -> Numbers:
    """(n, 2) how fast lids and jaw go, at RATE."""
    lids = (take.column("eyeBlinkLeft") + take.column("eyeBlinkRight")) / 2
    values = bridged(np.stack([lids, take.column("jawOpen")], axis=1)).astype(np.float64)
    times = np.arange(int(take.seconds * RATE)) / RATE
    own = np.arange(take.frames) / float(take.rate)
    dense = np.stack([np.interp(times, own, column) for column in values.T], axis=1)
    return gaussian_filter1d(dense, BLUR * RATE, axis=0, order=1, mode="nearest") * RATE
