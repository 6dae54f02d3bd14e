"""Solving a take's colour dots, and finding their samples: in the worker; what a solve says of each dot."""

from dataclasses import replace
from typing import Any

import numpy as np

from dynaface.core.documents.model.dots import DotsBody
from dynaface.core.documents.model.take import TakeBody
from dynaface.core.dots.flat import FlatHead
from dynaface.core.dots.hand import Correction
from dynaface.core.dots.solve import DotSolve, solve_dots
from dynaface.core.dots.track import DotTrack
from dynaface.core.errors import InputError
from dynaface.core.markers.review import belief_by_region, typical, worst_markers
from dynaface.core.records.records import Document, Job, Source
from dynaface.formats.entries.curve_table import write_table
from dynaface.pipelines.progress import Progress
from dynaface.pipelines.solve_dots import head_of_dots, track_clip
from dynaface.services.footage.dot_layouts import open_dots
from dynaface.services.footage.solve_take import about_solve, store_solve
from dynaface.services.jobs.request_jobs import queue_job
from dynaface.services.layouts import read_blocks, store_samples, write_blocks
from dynaface.services.load_source import load_footage
from dynaface.services.take.take_sources import footage_of
from dynaface.services.work import Work

DOTS, SURENESS = "dots:f4", "dot confidence:f4"


def request_dot_solve(work: Work, take: str, dots: str) -> Job:
    """Queues a solve of a take's dots; raises InputError at once for too few of them."""
    found, _ = footage_of(work, take)
    layout = open_dots(work, dots)[0].body.layout
    placed = [d for d in layout.dots if d.place]
    if len(placed) < 6:
        raise InputError(
            f"only {len(placed)} dots are picked",
            hint="Pick at least six, two of them on places that only carry the head",
        )
    return queue_job(work, found.production, "dots", f"Solve {found.body.slate}", {"take": take, "dots": dots})


def request_dot_samples(work: Work, dots: str) -> Job:
    """Queues looking for the frame of each expression's extreme in the clip in which dots were picked."""
    found, _ = open_dots(work, dots)
    return queue_job(work, found.production, "dot samples", f"Samples of {found.body.name}", {"dots": dots})


def find_dot_samples(work: Work, job: Job, progress: Progress) -> dict[str, Any]:
    """The work itself: the layout's clip solved with the general head, then each expression's extreme, into the layout."""
    found, clip = open_dots(work, job.request["dots"])
    layout = found.body.layout
    progress(0.1, "following the dots")
    track = track_clip(clip, layout, _of_layouts_clip(work, found))
    progress(0.8, "solving with the general head")
    made = solve_dots(head_of_dots(track, layout, clip.rate), track, clip.rate, moves=layout.moves)
    return store_samples(work, found, made.channels.values, layout.neutral)


def solve_dot_take(work: Work, job: Job, progress: Progress) -> dict[str, Any]:
    """The work itself, in the worker."""
    return {"source": solve_dots_of(work, job.request["take"], job.request["dots"], progress).id}


def solve_dots_of(work: Work, take_id: str, dots_id: str, progress: Progress) -> Source:
    """A new solve of a take's dots, kept beside the older ones and chosen for the take."""
    take, source = footage_of(work, take_id)
    chosen, made_in = open_dots(work, dots_id)
    layout, clip = chosen.body.layout, load_footage(work, source)
    progress(0.05, "following the dots")
    by_hand = corrections_of(take, dots_id)
    track = track_clip(clip, layout, list(by_hand.values()))
    progress(0.5, "laying the head behind them")
    own = source.id == chosen.body.footage
    picked_in = track if own else track_clip(made_in, layout, _of_layouts_clip(work, chosen))
    head = head_of_dots(picked_in, layout, made_in.rate, layout.samples)
    progress(0.8, "solving all frames together")
    made = solve_dots(head, track, clip.rate, layout.drives, layout.moves)
    belief = belief_by_region(head.basis, made.residual, head.fixed)
    about = about_solve(work, chosen.body.name, layout.moves, belief[:, belief.any(axis=0)]) | {
        "dots": _described(head, made, track) | {"corrections": {name: take.body.dots[name].plain() for name in by_hand}}, "dotLayout": chosen.id}  # fmt: skip
    channels = replace(made.channels, timecode=clip.timecode)
    stored = store_solve(work, take.id, source, write_table(channels), belief, made.poses, about)
    write_blocks(work, stored.id, {DOTS: track.points, SURENESS: track.confidence})
    return stored


def corrections_of(take: Document[TakeBody], dots: str) -> dict[str, Correction]:
    """What was put right by hand in a take, of one layout's dots, by name."""
    return {name: c for name, c in take.body.corrections.items() if c.layout == dots}


def _of_layouts_clip(work: Work, dots: Document[DotsBody]) -> list[Correction]:
    """What was put right in the clip in which the dots were picked, by whichever take it is of."""
    with work.store.unit() as unit:
        takes = [
            t for t in unit.documents.of_kind(dots.production, TakeBody) if t.body.sources.footage == dots.body.footage
        ]
    return [c for take in takes for c in corrections_of(take, dots.id).values()]


def _described(head: FlatHead, made: DotSolve, track: DotTrack) -> dict[str, Any]:
    return {
        "labels": list(track.labels),
        "residual": typical(made.residual),
        "worst": [vars(r) for r in worst_markers(head.basis.labels, made.residual)],
        "seen": head.basis.by_word(),
        "swaps": [list(s) for s in track.swaps[:200]],
    }


def fetch_dots(work: Work, source: str) -> tuple[dict[str, Any], dict[str, np.ndarray]]:
    """(labels, arrays) of a solve of dots: points (frames, dots, 2) pixels, confidence (frames, dots)."""
    labels, (points, sure) = read_blocks(work, source, (DOTS, SURENESS), "dots")
    return {"labels": labels}, {"points": points.reshape(len(points), len(labels), 2), "confidence": sure}
