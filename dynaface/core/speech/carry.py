"""Words with known times in one voice, carried to another that says the same: dynamic time warping over cepstra (Sakoe & Chiba 1978),
with a pause allowed between any two words.
"""

from collections.abc import Sequence
from dataclasses import replace

import numpy as np
from numba import njit
from numpy.typing import NDArray

from dynaface.core.speech.cepstra import SECONDS, Array, Cepstra
from dynaface.core.speech.words import Word

Steps = NDArray[np.int64]
STAY, SKIP = 0.6, 0.6  # what it costs to hold a step of the known voice, and to leave one out
QUIET = 12.0  # decibels above the quietest tenth that still count as silence


def carry(words: Sequence[Word], known: Cepstra, heard: Cepstra) -> tuple[list[Word], float]:
    """(the words in the times of the heard voice, the mean cost of a step: the smaller, the more alike). words: in order, with times in
    the known voice.
    """
    states, word_of, starts = _states(words, len(known.values))
    silence = _silence(heard)
    cost = _distances(states, known, heard, silence)
    path, total = _best(cost, np.asarray([w < 0 for w in word_of]))
    out = []
    for number, word in enumerate(words):
        low, high = starts[number]
        inside = np.flatnonzero((path >= low) & (path <= high))
        if not len(inside):
            at = float(np.searchsorted(path, low)) * SECONDS
            out.append(word.moved(at, at + SECONDS))
            continue
        out.append(_moved(word, states, path, inside))
    return out, total


def _states(words: Sequence[Word], steps: int) -> tuple[Array, list[int], list[tuple[int, int]]]:
    """(step of the known voice of each state, -1 for a pause; word of each state, -1 for a pause; first and last state of each word)."""
    states: list[int] = [-1]
    word_of: list[int] = [-1]
    spans = []
    for number, word in enumerate(words):
        first = min(max(round(word.first / SECONDS), 0), steps - 1)
        last = min(max(round(word.last / SECONDS), first + 1), steps)
        spans.append((len(states), len(states) + last - first - 1))
        states += range(first, last)
        word_of += [number] * (last - first)
        states.append(-1)
        word_of.append(-1)
    return np.asarray(states, np.float64), word_of, spans


def _silence(heard: Cepstra) -> Array:
    """(columns,) what the heard voice's quiet sounds like."""
    quiet = heard.loud <= np.percentile(heard.loud, 10) + 1.0
    return np.asarray(heard.values[quiet].mean(axis=0))


def _distances(states: Array, known: Cepstra, heard: Cepstra, silence: Array) -> Array:
    """(heard steps, states) how unlike they are."""
    steps = states.astype(int)
    wanted = known.values[np.maximum(steps, 0)]
    a, b = heard.values, wanted
    squares = (a**2).sum(axis=1)[:, None] + (b**2).sum(axis=1)[None] - 2 * a @ b.T
    out = np.sqrt(np.maximum(squares, 0))
    pause = np.linalg.norm(heard.values - silence, axis=1)
    # What is loud is no pause, however flat its spectrum.
    floor = np.percentile(heard.loud, 10) + QUIET
    pause = pause + np.maximum(heard.loud - floor, 0) * 0.3
    out[:, steps < 0] = pause[:, None]
    return np.ascontiguousarray(out)


@njit(cache=True)
def _walk(cost, pause, stay, skip):  # type: ignore[no-untyped-def]
    steps, states = cost.shape
    total = np.full(states, np.inf)
    came = np.zeros((steps, states), np.int32)
    total[0] = cost[0, 0]
    if states > 1:
        total[1] = cost[0, 1]
    for t in range(1, steps):
        before = total.copy()
        for s in range(states):
            best = before[s] + (0.0 if pause[s] else stay)
            origin = s
            if s > 0 and before[s - 1] < best:
                best, origin = before[s - 1], s - 1
            # Two at once: a step of the known voice is left out, or a pause, which costs nothing.
            if s > 1:
                by = before[s - 2] + (0.0 if pause[s - 1] else skip)
                if by < best:
                    best, origin = by, s - 2
            total[s] = best + cost[t, s]
            came[t, s] = origin
    return total, came


def _best(cost: Array, pause: NDArray[np.bool_]) -> tuple[Steps, float]:
    """((heard steps,) state of each, mean cost). It begins in the pause before the first word or in it, and ends likewise."""
    total, came = _walk(cost, pause, STAY, SKIP)
    last = len(total) - 1
    state = last if len(total) < 2 or total[last] <= total[last - 1] else last - 1
    mean = float(total[state]) / len(cost)
    path = np.empty(len(cost), np.int64)
    for t in range(len(cost) - 1, -1, -1):
        path[t] = state
        state = came[t, state]
    return path, mean


def _moved(word: Word, states: Array, path: Steps, inside: Steps) -> Word:
    """A word with its phones where the path says that they are."""
    first, last = float(inside[0]) * SECONDS, float(inside[-1] + 1) * SECONDS
    steps = states[path[inside]]
    edges = [word.first, *(p.last for p in word.phones)]
    where = [first]
    for edge in edges[1:-1]:
        step = min(int(np.searchsorted(steps, edge / SECONDS)), len(inside) - 1)
        where.append(float(inside[step]) * SECONDS)
    where.append(last)
    for i in range(1, len(where)):
        where[i] = max(where[i], where[i - 1])
    phones = tuple(replace(p, first=where[i], last=where[i + 1]) for i, p in enumerate(word.phones))
    return replace(
        word, first=first, last=max(last, first + SECONDS), phones=tuple(p for p in phones if p.last > p.first)
    )
