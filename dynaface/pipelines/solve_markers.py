"""Markers to curves, without a database: the command line and benches use it."""

from collections.abc import Mapping
from dataclasses import replace
from functools import lru_cache

import numpy as np

from dynaface.core.errors import InputError
from dynaface.core.markers.basis import MarkerBasis, carried_basis, sampled_basis
from dynaface.core.markers.chart import Chart, face_chart
from dynaface.core.markers.drive import driven
from dynaface.core.markers.layout import Layout, likeness_of, middle_points, neutral_points
from dynaface.core.markers.mend import Mended, fill_gaps, mend_names
from dynaface.core.markers.rigid import head_motion, without_head
from dynaface.core.markers.solve import MarkerSolve, solve_markers
from dynaface.core.markers.stage_axes import refuse_other_axes
from dynaface.core.markers.take import Array, MarkerTake
from dynaface.formats.head_file import general_head, landmark_places

ABOUT = 0.05  # seconds to either side of a sample that are averaged


@lru_cache(maxsize=1)
def general_chart() -> Chart:
    """The face chart on the general head."""
    return face_chart(general_head(), landmark_places())


def fixed_labels(layout: Layout) -> tuple[str, ...]:
    """Labels of markers that only carry the head."""
    chart = general_chart()
    return tuple(label for label, place in layout.used.items() if chart.fixed[chart.names.index(place)])


def likeness_of_layout(basis: MarkerBasis, layout: Layout) -> list[float]:
    """How the general head is made like the performer, as far as the markers tell."""
    chart = general_chart()
    places = np.array([chart.names.index(layout.places[label]) for label in basis.labels])
    return [round(float(v), 4) for v in likeness_of(chart, places, basis.neutral)]


def basis_of(rom: MarkerTake, layout: Layout, samples: Mapping[str, int] | None = None) -> tuple[MarkerBasis, Array]:
    """(basis, neutral points of the take's markers) from the take with the layout's neutral frames; samples: shape -> frame of
    the same take in which it is at its extreme.
    """
    neutral = neutral_points(rom, layout.neutral)
    basis = carried_basis(rom.labels, neutral, layout.used, general_chart())
    if not samples:
        return basis, neutral
    index = [rom.labels.index(label) for label in basis.labels]
    rotations, shifts = head_motion(rom.points, neutral, np.isin(rom.labels, fixed_labels(layout)))
    rotation, shift = basis.to_head
    still = without_head(rom.points[:, index], rotations, shifts) @ rotation.T + shift
    moved, about = {}, max(1, round(ABOUT * float(rom.rate)))
    for shape, frame in samples.items():
        if not 0 <= frame < rom.frames:
            raise InputError(f"the sample of {shape} is frame {frame} of a take of {rom.frames} frames")
        moved[shape] = middle_points(still, frame - about, frame + about) - basis.neutral
    return sampled_basis(basis, moved), neutral


def solve_with(take: MarkerTake, basis: MarkerBasis, layout: Layout, rom: MarkerTake, neutral: Array
               ) -> tuple[MarkerSolve, Mended]:  # fmt: skip
    """The take solved with a basis from another take of the same day, and its markers put right; markers go by their labels.

    Solved once to find names that were changed or lost, then again under the right names, then its gaps are filled.
    """
    whole, still = _completed(take, basis, rom, neutral)
    refuse_other_axes(whole.points, still)
    fixed = fixed_labels(layout)
    made = solve_markers(whole, basis, fixed, still)
    named, repairs = mend_names(whole, basis, made)
    own = still[[whole.labels.index(label) for label in named.labels]]
    if repairs:
        made = solve_markers(named, basis, fixed, own)
    mended = fill_gaps(named, basis, made, repairs)
    if layout.drives:
        # Any marker of the take may drive a channel, also one that sits on no place.
        labels = (*named.labels, *(n for n in take.labels if n not in named.labels))
        others = [take.labels.index(n) for n in labels[len(named.labels) :]]
        points = np.concatenate([mended.filled, take.points[:, others]], axis=1)
        at_rest = [neutral[rom.labels.index(n)] if n in rom.labels else np.full(3, np.nan) for n in labels]
        made = replace(made, channels=driven(made.channels, layout.drives, labels, points, np.array(at_rest)))
    return made, mended


def _completed(take: MarkerTake, basis: MarkerBasis, rom: MarkerTake, neutral: Array) -> tuple[MarkerTake, Array]:
    """The take with a place for each marker of the basis, and (markers, 3) their neutral points."""
    lacking = [label for label in basis.labels if label not in take.labels]
    if len(lacking) == len(basis.labels):
        raise InputError("the take has none of the layout's markers", hint="Is this the layout of that day?")
    labels = tuple(dict.fromkeys([*take.labels, *lacking]))
    points = np.full((take.frames, len(labels), 3), np.nan)
    points[:, : len(take.labels)] = take.points
    still = np.full((len(labels), 3), np.nan)
    for i, label in enumerate(labels):
        if label in rom.labels:
            still[i] = neutral[rom.labels.index(label)]
    return replace(take, labels=labels, points=points), still
