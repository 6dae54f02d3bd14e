"""A clip looked through and measured in stretches at the same time: a process for each core, since each works on one frame after the other."""

import os
from collections.abc import Callable, Iterator
from concurrent.futures import ProcessPoolExecutor
from contextlib import contextmanager
from dataclasses import dataclass
from functools import partial
from multiprocessing import get_context
from pathlib import Path
from typing import Any

import cv2

from dynaface.cli.files import footage_of
from dynaface.core.solve.card import PerformerCard
from dynaface.core.solve.measured import Measured, joined
from dynaface.core.track.landmarks import Landmarks
from dynaface.pipelines.solve_footage import FARTHEST_LEAD, find_landmarks, measure_footage

FEWEST = 80  # frames that are worth the start of a process
Span = tuple[int, int]
Found = list[Landmarks | None]


def spans_of(first: int, last: int, cores: int) -> list[Span]:
    """Frames first to last in as many stretches as there are cores, or fewer, each of about the same length."""
    frames = last - first + 1
    count = max(1, min(cores, frames // FEWEST))
    edges = [first + frames * n // count for n in range(count + 1)]
    return [(a, b - 1) for a, b in zip(edges, edges[1:], strict=False)]


@dataclass(frozen=True)
class Stretches:
    """path: the clip; cores: how many stretches are worked on at the same time; each: does something with all of them."""

    path: Path
    cores: int
    each: Callable[..., Any]

    def landmarks(self, first: int, last: int) -> Found:
        """Landmarks of the clip's frames up to the last; None before the first."""
        parts = self.each(partial(_landmarks, self.path), spans_of(first, last, self.cores))
        return [*[None] * first, *(mark for part in parts for mark in part)]

    def measured(self, card: PerformerCard, found: Found, first: int, last: int) -> Measured:
        """What frames first to last say by a card; found: as landmarks() gives them."""
        spans = spans_of(first, last, self.cores)
        begins = [max(0, a - FARTHEST_LEAD) for a, _ in spans]
        own = [found[begin : b + 1] for begin, (_, b) in zip(begins, spans, strict=True)]
        return joined(list(self.each(partial(_measured, self.path, card), spans, begins, own)))


@contextmanager
def stretches_of(path: Path, frames: int) -> Iterator[Stretches]:
    """The stretches of a clip of so many frames, for as many cores as this process may use."""
    cores = len(spans_of(0, frames - 1, len(os.sched_getaffinity(0))))
    _one_thread()
    if cores == 1:
        yield Stretches(path, 1, map)
        return
    with ProcessPoolExecutor(cores, get_context("spawn"), _one_thread) as pool:
        yield Stretches(path, cores, pool.map)


def _one_thread() -> None:
    """More threads than cores only wait for each other."""
    cv2.setNumThreads(1)


def _landmarks(path: Path, span: Span) -> Found:
    return list(find_landmarks(footage_of(path), *span))


def _measured(path: Path, card: PerformerCard, span: Span, begins: int, found: Found) -> Measured:
    return measure_footage(footage_of(path), [*[None] * begins, *found], card, *span)
