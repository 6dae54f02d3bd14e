"""How likely each region of the face is right, from how it was seen and how it moves.

The chances are logistic in four cues and were fitted to clips of made performers whose truth is known, solved with their card, without
one, behind a hand and with another performer's card: `python -m bench.confidence` makes them again and prints how well they hold.
"""

from collections.abc import Mapping
from dataclasses import astuple, dataclass

import numpy as np
from numpy.typing import NDArray

from dynaface.core.shapes.regions import SHAPES_OF
from dynaface.core.track.head import Array

RIGHT = 0.1  # a region is right in a frame in which its weights are off by less (RMS over its shapes)
UNSEEN = 0.5  # seen by less than this, a region is a guess, however likely at rest: a hand before it has to be marked
LIKE = 0.5  # a face that fits its card by less is another's, or filmed too badly to tell


@dataclass(frozen=True)
class Chance:
    """Of a region being right, in logits: base, and what each cue adds. apart: of the RMS by which a frame by itself and all frames
    together disagree; moved: of the RMS of the weights; unseen: of how far the region is not seen; sampled: of the share of its shapes that
    the card has samples of.
    """

    base: float
    apart: float
    moved: float
    unseen: float
    sampled: float


CHANCES: Mapping[str, Chance] = {
    "brows": Chance(2.42, -16.73, -7.78, -7.49, 1.52),
    "lids": Chance(2.38, -30.41, -11.12, -3.72, 2.27),
    "gaze": Chance(1.22, -13.94, -10.07, -2.34, 1.41),
    "nose": Chance(4.49, -29.81, -6.56, -3.54, 0.78),
    "cheeks": Chance(3.62, -24.6, -10.83, -3.81, 2.68),
    "jaw": Chance(3.24, -12.01, -11.86, -1.96, 0.3),
    "lips": Chance(3.76, -20.79, -19.74, -3.87, 1.89),
}
COLUMNS = {region: SHAPES_OF[region] for region in CHANCES}


def cues(
    values: Array, alone: Array, seen: Array, solved: NDArray[np.bool_], sampled: NDArray[np.bool_]
) -> dict[str, Array]:
    """region -> (frames, 5) of 1 and the cues in the order of `Chance`, of regions of which anything is solved.

    values, alone: (frames, 52) weights of all frames together and of each frame by itself; seen: (frames, 52) 0..1; solved, sampled: (52,).
    """
    out = {}
    for region, all_columns in COLUMNS.items():
        own = [i for i in all_columns if solved[i]]
        if own:
            apart, moved = (np.sqrt((part[:, own] ** 2).mean(axis=1)) for part in (values - alone, values))
            share = np.full(len(values), sampled[own].mean())
            out[region] = np.stack([np.ones(len(values)), apart, moved, 1 - seen[:, own].mean(axis=1), share], axis=1)
    return out


def chances(found: Mapping[str, Array], table: Mapping[str, Chance]) -> dict[str, Array]:
    """region -> (frames,) 0..1 of being right, from cues."""
    out = {}
    for region, columns in found.items():
        likely = 1 / (1 + np.exp(-columns @ np.array(astuple(table[region]))))
        out[region] = np.minimum(likely, (1 - columns[:, 3]) / UNSEEN)
    return out


def confidence(
    values: Array, alone: Array, seen: Array, solved: NDArray[np.bool_], sampled: NDArray[np.bool_]
) -> NDArray[np.float32]:
    """(frames, 52) 0..1 of the region of each shape being right, 0 for shapes that are not solved; see `cues`."""
    out = np.zeros(values.shape, np.float32)
    for region, likely in chances(cues(values, alone, seen, solved, sampled), CHANCES).items():
        out[:, COLUMNS[region]] = likely[:, None]
    return out * solved
