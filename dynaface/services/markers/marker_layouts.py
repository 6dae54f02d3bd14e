"""Marker layouts: which marker sits on which place, once for a performer and day; proposing, listing, what they let see."""

from typing import Any

import numpy as np

from dynaface.core import checks
from dynaface.core.documents.model.layout import LayoutBody, layout_fields
from dynaface.core.errors import InputError
from dynaface.core.markers.chart import MARKS, mirrored_place, region_of_place
from dynaface.core.markers.layout import stillest
from dynaface.core.markers.propose_layout import layout_doubts, propose_layout
from dynaface.core.markers.rigid import FEWEST
from dynaface.core.markers.take import MarkerTake
from dynaface.core.records.records import Document
from dynaface.pipelines.solve_markers import basis_of, fixed_labels, general_chart
from dynaface.services.edit_document import change_document
from dynaface.services.layouts import add_layout
from dynaface.services.load_source import load_markers
from dynaface.services.take.take_sources import markers_of
from dynaface.services.work import Work, document_for, source_for, source_within


def propose_for_take(work: Work, take: str, name: str, neutral: tuple[int, int] | None) -> Document[LayoutBody]:
    """A new layout from a take's markers in its neutral frames, or in its stillest half second."""
    found, source = markers_of(work, take)
    points = load_markers(work, source)
    made = propose_layout(points, general_chart(), neutral or stillest(points))
    return add_layout(work, found, LayoutBody, name, {"markers": source.id, **layout_fields(made)})


def propose_again(work: Work, layout: str) -> Document[LayoutBody]:
    """The places of a layout proposed anew, from its own neutral frames; it can be undone."""
    found, points = open_layout(work, layout)
    made = propose_layout(points, general_chart(), found.body.layout.neutral)
    changes: list[dict[str, Any]] = [{"path": "places", "value": dict(made.places)}, {"path": "off", "value": {}}]
    return change_document(work, layout, LayoutBody, found.version, "propose places", changes)


def open_layout(work: Work, layout: str) -> tuple[Document[LayoutBody], MarkerTake]:
    """A layout and the markers that it was made from."""
    with work.store.unit() as unit:
        found = document_for(work, unit, layout, LayoutBody)
        source = source_within(unit, found.production, found.body.markers, "markers")
    return found, load_markers(work, source)


def study_layout(work: Work, layout: str) -> dict[str, Any]:
    """What a layout lets see of each shape ("well", "weakly", "not seen"), and how its markers are carried to the head; problem:
    what keeps it from being solved with, "" for nothing; doubts: what speaks against it.
    """
    found, points = open_layout(work, layout)
    used = found.body.layout
    try:
        basis, neutral = basis_of(points, used, used.samples)
    except InputError as error:
        return {"problem": error.message, "doubts": [], "seen": {}, "fixed": 0, "rotation": [], "shift": []}
    seen = [n for n in fixed_labels(used) if n in points.labels and np.isfinite(neutral[points.labels.index(n), 0])]
    problem = (
        "" if len(seen) >= FEWEST else f"only {len(seen)} markers sit on places that carry the head; it needs {FEWEST}"
    )
    rotation, shift = basis.to_head
    return {
        "problem": problem,
        "doubts": layout_doubts(points, used, general_chart()),
        "seen": basis.seen(),
        "fixed": len(seen),
        "rotation": rotation.ravel().tolist(),
        "shift": shift.tolist(),
    }


def chart_places() -> list[dict[str, Any]]:
    """The face chart: name, region, mirrored place, whether it only carries the head, and where it lies in metres."""
    chart = general_chart()
    return [
        {"name": name, "region": region_of_place(chart, number), "mirrored": mirrored_place(name),
         "fixed": bool(chart.fixed[number]), "at": [round(float(v), 5) for v in chart.points[number]]}
        for number, name in enumerate(MARKS)
    ]  # fmt: skip


def fetch_markers(work: Work, source: str) -> tuple[dict[str, Any], dict[str, np.ndarray]]:
    """(labels and rate, points (frames, markers, 3) metres) of a markers source, NaN where a marker was not seen."""
    with work.store.unit() as unit:
        found = source_for(work, unit, source)
    checks.one_of("kind of source", found.kind, ("markers",))
    take = load_markers(work, found)
    return {"labels": list(take.labels), "rate": str(take.rate)}, {"points": take.points.astype(np.float32)}
