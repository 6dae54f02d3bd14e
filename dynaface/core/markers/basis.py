"""What each shape does to a performer's markers: the general head carried to them, corrected by expression samples."""

from collections.abc import Mapping
from dataclasses import dataclass
from functools import cached_property

import numpy as np
from numpy.typing import NDArray

from dynaface.core.errors import InputError
from dynaface.core.markers.chart import Chart
from dynaface.core.markers.layout import laid_over
from dynaface.core.markers.take import Array
from dynaface.core.shapes.pairs import OPPOSED
from dynaface.core.shapes.standard import SHAPES, mirrored

WELL, WEAKLY = 0.0012, 0.0003  # metres by which a shape moves markers in a way that no other shape does
FEWEST_PLACED = 4
_BACK = {
    SHAPES.index(a): SHAPES.index(b)
    for pair in OPPOSED
    for a, b in (pair, pair[::-1])
    if a.startswith("eyeLook") and b.startswith("eyeLook")
}
STRAY = 0.35  # how much of a sample's change is believed where the general head says the shape moves nothing
JAW, CLOSED = SHAPES.index("jawOpen"), SHAPES.index("mouthClose")


@dataclass(frozen=True)
class MarkerBasis:
    """labels: markers that sit on the face and move; neutral: (markers, 3) in the general head's frame; shapes: (52, markers, 3)
    metres at whole weight; to_head: (rotation (3, 3), shift (3,)) that carried the take's neutral there.
    """

    labels: tuple[str, ...]
    neutral: Array
    shapes: Array
    to_head: tuple[Array, Array]

    @cached_property
    def own(self) -> Array:
        """(52,) metres by which each shape moves the markers in a way that no other kept shape does; 0 for one that is not
        seen. Of shapes that look alike, those that move most are kept: the others leave first.
        """
        rows = self.shapes.reshape(len(SHAPES), -1)
        size = np.linalg.norm(rows, axis=1)
        kept = [i for i in range(len(SHAPES)) if size[i] > WEAKLY]
        while kept:
            # An eye does not look both ways at once: what takes a look back does not imitate it.
            apart = np.array([_apart(rows, i, [j for j in kept if j not in (i, _BACK.get(i))]) for i in kept])
            if apart.min() > WEAKLY:
                out = np.zeros(len(SHAPES))
                out[kept] = apart
                return out
            # Among those that cannot be told apart, the one that moves least goes.
            doubtful = [i for i, a in zip(kept, apart, strict=True) if a <= WEAKLY]
            kept.remove(min(doubtful, key=lambda i: size[i]))
        return np.zeros(len(SHAPES))

    @cached_property
    def reported(self) -> NDArray[np.bool_]:
        """(52,) True for shapes that are reported. Where an eye looks shows in how the lids follow: it is solved along, so that lids
        are not blamed for it, but what is seen of it weakly, or of one eye alone, is no gaze.
        """
        looks = np.array([s.startswith("eyeLook") for s in SHAPES])
        well = np.asarray(self.own > np.where(looks, WELL, 0.0))
        both = np.array([well[SHAPES.index(mirrored(s))] for s in SHAPES])
        return np.asarray(well & (both | ~looks))

    def seen(self) -> dict[str, str]:
        """shape -> "well", "weakly" or "not seen"."""
        words = ((WELL, "well"), (WEAKLY, "weakly"), (-1.0, "not seen"))
        own = np.where(self.reported, self.own, 0.0)
        return {s: next(w for least, w in words if o > least) for s, o in zip(SHAPES, own, strict=True)}

    def by_word(self) -> dict[str, list[str]]:
        """The same the other way: the shapes that are seen "well", "weakly" and "not seen"."""
        seen = self.seen()
        return {word: [s for s in SHAPES if seen[s] == word] for word in ("well", "weakly", "not seen")}


def _apart(rows: Array, number: int, others: list[int]) -> float:
    """What the others together could not imitate, with weights that stay small."""
    held = rows[others]
    gains = np.linalg.solve(held @ held.T + 1e-6 * np.eye(len(others)), held @ rows[number])
    return float(np.linalg.norm(rows[number] - gains @ held))


def carried_basis(labels: tuple[str, ...], neutral: Array, places: Mapping[str, str], chart: Chart) -> MarkerBasis:
    """The general head's shapes at the performer's markers. neutral: (markers, 3) of the take's still face, metres.

    Raises InputError where too few have places."""
    used = [i for i, n in enumerate(labels) if n in places and np.isfinite(neutral[i, 0])]
    if len(used) < FEWEST_PLACED:
        raise InputError(f"only {len(used)} markers sit on places and are seen in the neutral frames",
                         hint=f"Place at least {FEWEST_PLACED}, three of them on places that only carry the head")  # fmt: skip
    at = np.array([chart.names.index(places[labels[i]]) for i in used])
    laid, _, (rotation, shift, _) = laid_over(chart, at, neutral[used], 6)
    # A larger face moves further: offsets grow with the spread of the markers that move.
    free = ~chart.fixed[at]
    grown = np.linalg.norm(laid[free] - laid[free].mean(axis=0)) / np.linalg.norm(
        chart.points[at[free]] - chart.points[at[free]].mean(axis=0)) if free.sum() > 3 else 1.0  # fmt: skip
    return MarkerBasis(tuple(labels[i] for i in used), laid, chart.shapes[:, at] * grown, (rotation, shift))


def sampled_basis(basis: MarkerBasis, samples: Mapping[str, Array]) -> MarkerBasis:
    """The basis with shapes put right by samples: shape -> (markers, 3) displacement from neutral at its extreme, NaN where a
    marker was not seen. Shapes that share one picture (both sides of a smile, both eyes that look one way) each take what lies on
    their side; lips that close over an open jaw are shown with that jaw, which is taken out.
    """
    shapes = basis.shapes.copy()
    shown = samples.get("jawOpen", basis.shapes[JAW])
    jaw = np.where(np.isfinite(shown), shown, basis.shapes[JAW])
    for shape, given in samples.items():
        number = SHAPES.index(shape)
        expected = basis.shapes[number]
        if number == CLOSED:
            given = given - _jaw_below(given, expected, jaw) * jaw
        moved = given * _share(basis, shape, samples)[:, None]
        # Where the general head says that the shape moves nothing, what a sample shows is half something else.
        reach = np.linalg.norm(expected, axis=1)
        trust = np.clip(reach / max(float(np.quantile(reach, 0.9)), 1e-9), STRAY, 1.0)[:, None]
        shapes[number] = np.where(np.isfinite(given), expected + trust * (moved - expected), expected)
    return MarkerBasis(basis.labels, basis.neutral, shapes, basis.to_head)


def _share(basis: MarkerBasis, shape: str, samples: Mapping[str, Array]) -> Array:
    """(markers,) how much of a picture is a shape's own, of those that share it."""
    reaches = {s: np.linalg.norm(basis.shapes[SHAPES.index(s)], axis=1) + 1e-6 for s, given in samples.items()
               if np.array_equal(given, samples[shape], equal_nan=True)}  # fmt: skip
    return np.asarray(reaches[shape] / np.sum(list(reaches.values()), axis=0))


def _jaw_below(given: Array, closed: Array, jaw: Array) -> float:
    """0..1 how far the jaw is open in a picture (markers, 3) of lips that are thought to close so."""
    seen = np.isfinite(given[:, 0])
    ways = np.stack([jaw[seen].ravel(), closed[seen].ravel()], axis=1)
    return float(np.clip(np.linalg.lstsq(ways, given[seen].ravel(), rcond=1e-6)[0][0], 0.0, 1.0))
