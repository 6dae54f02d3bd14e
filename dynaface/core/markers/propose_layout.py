"""Which marker sits on which place of the face, proposed from where markers are in a neutral face, and what speaks against it."""

from collections.abc import Sequence
from dataclasses import dataclass, replace
from itertools import permutations, product

import numpy as np
from numpy.typing import NDArray
from scipy.optimize import linear_sum_assignment
from scipy.spatial.transform import Rotation

from dynaface.core.errors import InputError
from dynaface.core.markers.chart import Chart
from dynaface.core.markers.layout import Layout, laid_over, likened, neutral_points
from dynaface.core.markers.rigid import fit_rigid
from dynaface.core.markers.stage_axes import is_mirrored
from dynaface.core.markers.take import Array, MarkerTake

NEAR = 0.11  # metres about the middle of the markers: what lies farther off is not on the face
MISS = 0.015  # metres on the general head: a marker that goes without a place costs as much as one that misses its own by this
# Metres within which a place takes a marker, round by round: of the general head as it is, made alike, and bent.
SEARCH, ALIKE, BENT = (
    (0.06, 0.05, 0.045, 0.04, 0.035, 0.03),
    (0.035, 0.03, 0.03, 0.025, 0.025, 0.025),
    (0.025, 0.02, 0.02, 0.02),
)
HELD = 0.1  # by which the size may change in a round
SMALLEST, LARGEST = 0.75, 1.3  # times the general head's size
FOLLOWED = 8  # stances that are looked at more closely
WIDE, STIFF = 0.06, 1.0  # metres over which a face bends as one, and how it resists
FEWEST, SURE = 4, 16  # markers without which nothing is proposed, and from which on a face is told from anything else
OFF = 0.0075  # metres: markers that miss their places by more do not lie as on a face
Fit = tuple[float, "_Laid"]


@dataclass(frozen=True)
class _Laid:
    """points: (n, 3) markers laid over the chart; size: by how much they were scaled; target: (places, 3) the chart as it is by now."""

    points: Array
    size: float
    target: Array

    def pairs(self, reach: float) -> tuple[NDArray[np.intp], NDArray[np.intp]]:
        """(places, markers) that belong together, one each, none farther apart than reach."""
        away = np.linalg.norm(self.target[:, None] - self.points[None], axis=2)
        places, markers = linear_sum_assignment(np.minimum(away, reach) ** 2)
        near = away[places, markers] < reach
        return places[near], markers[near]

    def onto(self, places: NDArray[np.intp], markers: NDArray[np.intp]) -> "_Laid":
        """Moved, turned and scaled onto the places that take them."""
        own, target = self.points[markers], self.target[places]
        rotation, _, scale = fit_rigid(own, target, np.ones(len(own)), scaled=True)
        scale = float(np.clip(np.clip(scale, 1 - HELD, 1 + HELD), SMALLEST / self.size, LARGEST / self.size))
        shift = target.mean(axis=0) - scale * rotation @ own.mean(axis=0)
        return _Laid(scale * self.points @ rotation.T + shift, self.size * scale, self.target)

    def cost(self, reach: float) -> float:
        """How badly it fits, square metres."""
        places, markers = self.pairs(reach)
        away = np.linalg.norm(self.target[places] - self.points[markers], axis=1)
        without = min(len(self.target), len(self.points)) - len(places)
        return float((np.minimum(away, MISS) ** 2).sum() + without * MISS**2)


def propose_layout(take: MarkerTake, chart: Chart, frames: tuple[int, int]) -> Layout:
    """Places for the markers by where they are in a neutral face: the chart is laid over those about their middle in all ways in which a
    head can stand, the best are fitted by size and likeness, and the best of them is bent as faces differ; each
    place takes the marker that fits best, one each. Raises InputError where too few are seen.
    """
    points = neutral_points(take, frames)
    seen = np.flatnonzero(np.isfinite(points[:, 0]))
    if len(seen) < FEWEST:
        raise InputError(f"only {len(seen)} markers are seen in the neutral frames", hint="Choose others")
    begun = _begun(points[seen], chart)
    fits = [fit for laid in begun if (fit := _fitted(laid, ALIKE, chart))]
    if not fits:
        raise InputError("the markers in the neutral frames do not lie as on a face",
                         hint="Choose frames in which the face is seen, or place the markers by hand")  # fmt: skip
    places, markers = _bent(min(fits, key=lambda fit: fit[0])[1], chart).pairs(BENT[-1])
    found = {take.labels[seen[m]]: chart.names[p] for p, m in zip(places, markers, strict=True)}
    return Layout(found, frames)


def layout_doubts(take: MarkerTake, layout: Layout, chart: Chart) -> list[str]:
    """What speaks against a layout of a take, in words."""
    points = neutral_points(take, layout.neutral)
    seen = [n for n, label in enumerate(take.labels) if label in layout.places and np.isfinite(points[n, 0])]
    if len(seen) < FEWEST:
        return []
    places = np.array([chart.names.index(layout.places[take.labels[n]]) for n in seen])
    laid, target, (_, _, scale) = laid_over(chart, places, points[seen], 4, scaled=True)
    away = float(np.sqrt(((laid - target[places]) ** 2).sum(axis=1).mean()))
    out = []
    if len(seen) < SURE:
        out.append(f"{len(seen)} markers can be laid over a face in several ways; look at each")
    if away > OFF:
        out.append(f"markers miss their places by {away * 1000:.0f} mm, where 1 to 5 mm are usual: this may be no face")
    if is_mirrored(points[seen] * scale, chart.points[places]):
        out.append(
            "left and right are exchanged: the file has left-handed axes, or the places of both sides are mixed up"
        )
    if not SMALLEST <= scale <= LARGEST:
        out.append(f"the head would be {1 / scale:.1f} times as large as usual: look at the unit of the file")
    return out


def _begun(points: Array, chart: Chart) -> list[_Laid]:
    """The stances from which the general head fits best as it is, each once."""
    middle = np.median(points, axis=0)
    near = points
    for _ in range(4):
        inside = points[np.linalg.norm(points - middle, axis=1) < NEAR]
        if len(inside) < FEWEST:
            break
        near, middle = inside, inside.mean(axis=0)
    centre = chart.points.mean(axis=0)
    spread = np.median(np.linalg.norm(chart.points - centre, axis=1))
    size = spread / max(float(np.median(np.linalg.norm(near - middle, axis=1))), 1e-9)
    size = float(np.clip(size, 0.8, 1.25))
    found: list[Fit] = []
    for turn in _stances():
        if fit := _fitted(_Laid((points - middle) @ turn.T * size + centre, 1.0, chart.points), SEARCH):
            found.append(fit)
    kept: list[_Laid] = []
    for _, laid in sorted(found, key=lambda fit: fit[0]):
        if len(kept) < FOLLOWED and all(np.abs(laid.points - k.points).max() > 0.005 for k in kept):
            kept.append(laid)
    return kept


def _stances() -> list[Array]:
    """The 24 rotations that carry axes onto axes, and those halfway between them."""
    halves = [Rotation.from_rotvec(axis * np.pi / 4).as_matrix() for axis in np.eye(3)]
    out = []
    for order, signs in product(permutations(range(3)), product((1.0, -1.0), repeat=3)):
        matrix = np.zeros((3, 3))
        matrix[range(3), order] = signs
        if np.linalg.det(matrix) > 0:
            out += [matrix, *(half @ matrix for half in halves)]
    return out


def _fitted(laid: _Laid, reaches: Sequence[float], alike: Chart | None = None) -> Fit | None:
    """(how badly it fits, how it lies) after rounds of moving it onto the places that take it; None where too few do. alike: the chart
    that gets the likeness that the markers ask for.
    """
    for reach in reaches:
        places, markers = laid.pairs(reach)
        if len(places) < FEWEST:
            return None
        laid = laid.onto(places, markers)
        if alike:
            laid = replace(laid, target=likened(alike, places, laid.points[markers]))
    return laid.cost(reaches[-1]), laid


def _bent(laid: _Laid, chart: Chart) -> _Laid:
    """With places that went where the markers about them ask for, as no likeness carries them: heads differ, and hands are careless."""
    alike = laid.target
    apart = ((chart.points[:, None] - chart.points[None]) ** 2).sum(axis=2)
    together = np.exp(-apart / (2 * WIDE**2))
    for reach in BENT:
        places, markers = laid.pairs(reach)
        own = together[np.ix_(places, places)] + STIFF * np.eye(len(places))
        pull = np.linalg.solve(own, laid.points[markers] - alike[places])
        laid = replace(laid, target=alike + together[:, places] @ pull)
    return laid
