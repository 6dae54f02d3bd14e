"""Jitter burst: a stretch in which curves tremble far more than they do elsewhere."""

from typing import Any

import numpy as np
from numpy.typing import NDArray
from scipy.ndimage import uniform_filter1d

from dynaface.core.curves.events import blinks
from dynaface.core.shapes.regions import REGION, REGIONS
from dynaface.core.snags.snag import Detector, Evidence, Snag, merged, place, severity, step

WINDOW = 0.25  # seconds over which trembling is measured
FACTOR, LEAST = 3.5, 0.011  # over the take's own noise, and in shape units
SHORTEST = 0.15
ALIKE = 1.8
SHARE = 0.45  # of the frames of a window that must tremble
DARTS = 2.0  # the least for eyes, which dart within a frame or two, against the others' least


def trembling(scaled: NDArray[np.float64], size: int) -> NDArray[np.float64]:
    """(frames, channels) standard deviation of what alternates from frame to frame.

    Third differences of white noise are anticorrelated from one frame to the next (-15 of 20), those of motion, a
    blink's as well, are not: only the first is counted.
    """
    third = np.zeros(scaled.shape)
    if len(scaled) > 4:
        third[2:-1] = np.nan_to_num(np.diff(scaled, n=3, axis=0))
    against = np.zeros(scaled.shape)
    against[:-1] = -third[:-1] * third[1:]
    along = np.zeros(scaled.shape)
    along[:-2] = third[:-2] * third[2:]
    near = uniform_filter1d(against, size, axis=0, mode="constant") / 15
    far = uniform_filter1d(along, size, axis=0, mode="constant") / 6
    return np.asarray(np.sqrt(np.maximum(np.minimum(near, 1.5 * far), 0)))


def _without_blinks(evidence: Evidence) -> NDArray[np.float64]:
    """Scaled values in which a straight line stands for each blink: its corners would look like trembling."""
    out = evidence.scaled.copy()
    for column, name in enumerate(evidence.channels.names):
        if name.startswith("eyeBlink"):
            for blink in blinks(evidence.channels.values[:, column], evidence.rate):
                first, last = max(0, blink.first - 3), min(len(out) - 1, blink.last + 3)
                out[first : last + 1, column] = np.linspace(out[first, column], out[last, column], last - first + 1)
    return out


def _mend(region: str, channels: tuple[str, ...], noise: NDArray[np.float64], first: int, last: int
          ) -> tuple[dict[str, Any], ...]:  # fmt: skip
    """Smoothing as wide as each channel's own trembling asks for: channels that tremble alike share a step."""
    groups: list[list[int]] = []
    for i in np.argsort(-noise):
        if groups and noise[i] * ALIKE >= noise[groups[-1][0]]:
            groups[-1].append(int(i))
        else:
            groups.append([int(i)])
    return tuple(
        step("smooth", [place(sorted(channels[i] for i in group), first, last)], 4, method="fit to motion",
             noise=round(min(float(noise[group[0]]), 0.2), 3), amount={region: 0.5})
        for group in groups
    )  # fmt: skip


def find(evidence: Evidence) -> list[Snag]:
    """One snag a region and stretch, for all channels of it that tremble."""
    size = evidence.frames(WINDOW)
    measured = trembling(_without_blinks(evidence), size)
    least = [LEAST * (DARTS if REGION[n] == "gaze" else 1) for n in evidence.channels.names]
    limit = np.maximum(FACTOR * evidence.noise, least)
    # One spike or jump trembles, too, but for four frames of a window: a burst goes on through most of it.
    third = np.zeros(measured.shape)
    if len(third) > 4:
        third[2:-1] = np.abs(np.nan_to_num(np.diff(evidence.scaled, n=3, axis=0)))
    busy = uniform_filter1d((third > 1.5 * limit).astype(np.float64), size, axis=0, mode="constant")
    wild = (measured > limit) & (busy > SHARE)
    names = np.array(evidence.channels.names)
    regions = np.array([REGION[n] for n in names])
    out = []
    for region in REGIONS:
        columns = np.flatnonzero(regions == region)
        if not len(columns):
            continue
        spans = merged(wild[:, columns].any(axis=1), evidence.frames(0.2), evidence.frames(SHORTEST))
        for first, last in spans:
            own = columns[wild[first : last + 1, columns].any(axis=0)]
            ratio = (measured[first : last + 1, own] / limit[own]).max()
            worst = float(measured[first : last + 1, own].max())
            low, high = first, last
            first, last = max(0, first - size // 3), min(len(wild) - 1, last + size // 3)
            channels = tuple(names[own].tolist())
            out.append(Snag(
                "jitter burst", region, channels, first, last, severity(ratio, 1, 6), worst, float(limit[own].min()), "",
                f"The {region} {'tremble' if region.endswith('s') else 'trembles'} here far more than in the rest of the take.",
                _mend(region, channels, measured[low : high + 1, own].max(axis=0), first, last),
            ))  # fmt: skip
    return out


DETECTOR = Detector(
    "jitter burst",
    "Jitter burst",
    "A stretch that trembles from frame to frame more than the take does elsewhere.",
    find,
)
