"""Solving a take's markers, and finding a layout's samples: in the worker; what a solve says of each marker."""

from typing import Any

import numpy as np

from dynaface.core.body.rotations import matrix_quaternions
from dynaface.core.errors import InputError
from dynaface.core.markers.basis import MarkerBasis
from dynaface.core.markers.mend import Mended
from dynaface.core.markers.review import belief_by_region, typical, worst_markers
from dynaface.core.markers.solve import MarkerSolve
from dynaface.core.records.records import Job, Source
from dynaface.core.shapes.standard import SHAPES
from dynaface.core.solve.clip import HEAD
from dynaface.formats.entries.curve_table import write_table
from dynaface.pipelines.progress import Progress
from dynaface.pipelines.solve_markers import basis_of, fixed_labels, likeness_of_layout, solve_with
from dynaface.services.footage.solve_take import about_solve, store_solve
from dynaface.services.jobs.request_jobs import queue_job
from dynaface.services.layouts import read_blocks, store_samples, write_blocks
from dynaface.services.load_source import load_markers
from dynaface.services.markers.marker_layouts import open_layout
from dynaface.services.take.take_sources import markers_of
from dynaface.services.work import Work

RESIDUAL, POINTS, GAPS = "residual:f4", "points:f4", "gaps:f4"
MAX_REPAIRS = 300


def request_marker_solve(work: Work, take: str, layout: str) -> Job:
    """Queues a solve of a take's markers; raises InputError at once for a layout that cannot carry the head."""
    found, _ = markers_of(work, take)
    chosen, points = open_layout(work, layout)
    used = chosen.body.layout
    if len([n for n in fixed_labels(used) if n in points.labels]) < 3:
        raise InputError("fewer than three markers of the layout sit on fixed places, so the head cannot be taken out",
                         hint="Place markers on the hairline, the temples, before the ears or the bridge of the nose")  # fmt: skip
    return queue_job(work, found.production, "markers", f"Solve {found.body.slate}", {"take": take, "layout": layout})


def request_samples(work: Work, layout: str) -> Job:
    """Queues looking for the frame of each expression's extreme in the take that a layout was made from."""
    found, _ = open_layout(work, layout)
    return queue_job(work, found.production, "marker samples", f"Samples of {found.body.name}", {"layout": layout})


def find_samples(work: Work, job: Job, progress: Progress) -> dict[str, Any]:
    """The work itself: the layout's take solved with the general head, then each expression's extreme, into the layout."""
    found, points = open_layout(work, job.request["layout"])
    used = found.body.layout
    progress(0.1, "solving with the general head")
    basis, neutral = basis_of(points, used)
    made, _ = solve_with(points, basis, used, points, neutral)
    return store_samples(work, found, np.nan_to_num(made.channels.values[:, : len(SHAPES)]), used.neutral)


def solve_marker_take(work: Work, job: Job, progress: Progress) -> dict[str, Any]:
    """The work itself, in the worker."""
    return {"source": solve_markers_of(work, job.request["take"], job.request["layout"], progress).id}


def solve_markers_of(work: Work, take_id: str, layout_id: str, progress: Progress) -> Source:
    """A new solve of a take's markers with a layout, kept beside the older ones and chosen for the take."""
    take, source = markers_of(work, take_id)
    layout, rom = open_layout(work, layout_id)
    used = layout.body.layout
    progress(0.05, "carrying the general head to the markers")
    basis, neutral = basis_of(rom, used, used.samples)
    progress(0.15, "taking the head out, solving, putting names right")
    made, mended = solve_with(load_markers(work, source), basis, used, rom, neutral)
    fixed = np.isin(basis.labels, fixed_labels(used))
    belief = belief_by_region(basis, made.residual, fixed)
    lost = int(np.isnan(made.channels.values[:, 0]).sum())
    about = about_solve(work, layout.body.name, HEAD, belief[:, belief.any(axis=0)], lost) | {
        "layout": layout.id, "markers": _described(basis, made, mended), "likeness": likeness_of_layout(basis, used)}  # fmt: skip
    progress(0.9, "storing")
    stored = store_solve(work, take.id, source, write_table(made.channels), belief, poses_of(basis, made), about)
    rotation, shift = basis.to_head
    on_head = mended.filled @ rotation.T + shift
    write_blocks(work, stored.id, {RESIDUAL: made.residual, POINTS: on_head, GAPS: mended.gaps.astype(np.float32)})
    return stored


def _described(basis: MarkerBasis, made: MarkerSolve, mended: Mended) -> dict[str, Any]:
    return {
        "labels": list(basis.labels),
        "residual": typical(made.residual),
        "worst": [vars(r) for r in worst_markers(basis.labels, made.residual)],
        "repairs": [vars(r) for r in mended.repairs[:MAX_REPAIRS]],
        "repaired": len(mended.repairs),
    }


def poses_of(basis: MarkerBasis, made: MarkerSolve) -> np.ndarray:
    """(frames, 7) turn and place of the head about where it was when neutral, in the general head's own frame."""
    rotation, shift = basis.to_head
    turn = np.einsum("ij,fjk,lk->fil", rotation, made.rotations, rotation)
    place = made.shifts @ rotation.T + shift - turn @ shift
    return np.concatenate([matrix_quaternions(turn), place], axis=1)


def fetch_solved_markers(work: Work, source: str) -> tuple[dict[str, Any], dict[str, np.ndarray]]:
    """(labels, arrays) of a solve of markers: points (frames, markers, 3) metres in the general head's frame without gaps inside,
    gaps (frames, markers) 1 where a sample was filled in, residual (frames, markers) metres.
    """
    labels, (points, gaps, residual) = read_blocks(work, source, (POINTS, GAPS, RESIDUAL), "markers")
    arrays = {"points": points.reshape(len(points), len(labels), 3), "gaps": gaps, "residual": residual}
    return {"labels": labels}, arrays
