"""Contacts kept on the character's own mesh: lips that close, lids that meet, lips that part.

Where the performer's curves say that lips or lids touch, the gap that this character would have there is worked out from
its rims, and the smallest change of the targets that move those rims brings it to nothing; it comes in and goes out softly.
"""

from collections.abc import Mapping
from dataclasses import dataclass, replace
from typing import TYPE_CHECKING

import numpy as np
from numpy.typing import NDArray

from dynaface.core.cast.study import Edge
from dynaface.core.curves.channels import Channels, Floats
from dynaface.core.curves.events import blinks, closures
from dynaface.core.curves.gaps import bridged
from dynaface.core.curves.known_runs import runs
from dynaface.core.curves.opening import opening

if TYPE_CHECKING:
    from dynaface.core.cast.sheet import CastSheet

Array = NDArray[np.float64]
SOFT = 0.05  # seconds in which a correction comes in and goes out
SHUT_LID = 0.8  # a performer's blink from this height on shuts the eye
PARTED = 0.1  # opening from which on the performer's lips are surely apart
OPEN_LEAST = 0.12  # of the performer's opening, as a share of the mouth's width, that parted lips show at least
ROUNDS, RIDGE = 3, 0.02  # corrections after what limits took away; how much small changes of several targets are liked


@dataclass(frozen=True)
class Kept:
    """kind: "lips", "lid left", "lid right" or "parting"; frames first..last; before, after: millimetres of the mean gap at its
    peak without and with the correction; on: whether it is kept.
    """

    kind: str
    first: int
    last: int
    before: float
    after: float
    on: bool = True

    @property
    def key(self) -> str:
        """How a sheet names the span."""
        return f"{self.kind} {self.first}"


def gap_of(edge: Edge, targets: tuple[str, ...], weights: Floats) -> Array:
    """(frames, stations) metres for weights (frames, targets)."""
    return np.asarray(edge.gap + weights.astype(np.float64) @ edge.columns(targets))


def keep_contacts(channels: Channels, targets: tuple[str, ...], weights: Floats, edges: Mapping[str, Edge],
                  sheet: "CastSheet") -> tuple[Floats, tuple[Kept, ...]]:  # fmt: skip
    """Weights (frames, targets) with contacts kept, and the spans."""
    rate = float(channels.rate)
    out, kept = weights, []
    for kind, edge_name, spans in _spans(channels, sheet, edges):
        edge = edges[edge_name]
        on = [f"{kind} {a}" not in sheet.contacts.off for a, _, _ in spans]
        window = np.zeros(len(weights))
        for (first, last, _), wanted in zip(spans, on, strict=True):
            if wanted:
                window = np.maximum(window, _soft(len(weights), first, last, SOFT * rate))
        least = _least(channels, edge) if kind == "parting" else None
        corrected = _close(edge, targets, out, window, least, sheet)
        if kind.startswith("lid"):  # on their way they do not pass each other either
            passed: Array = (gap_of(edge, targets, corrected).min(axis=1) < min(float(edge.gap.min()), 0.0)).astype(
                float
            )
            for (first, last, _), wanted in zip(spans, on, strict=True):
                if not wanted:
                    passed[max(first - round(4 * SOFT * rate), 0) : last + round(4 * SOFT * rate)] = 0
            rest: Array = np.tile(np.minimum(edge.gap, 0), (len(weights), 1))
            corrected = _close(edge, targets, corrected, passed, rest, sheet)
        before, after = gap_of(edge, targets, out).mean(axis=1), gap_of(edge, targets, corrected).mean(axis=1)
        kept += [
            Kept(kind, a, b, round(float(before[peak]) * 1000, 3), round(float(after[peak]) * 1000, 3), wanted)
            for (a, b, peak), wanted in zip(spans, on, strict=True)
        ]
        out = corrected
    return out, tuple(kept)


def _spans(channels: Channels, sheet: "CastSheet", edges: Mapping[str, Edge]
           ) -> list[tuple[str, str, list[tuple[int, int, int]]]]:  # fmt: skip
    """(kind, edge, [(first, last, peak)]) of what is asked for."""
    rate = float(channels.rate)
    # In a gap nothing is known: it is bridged here as on the character, so that no rest is taken for a closure.
    filled = replace(channels, values=bridged(channels.values))
    out: list[tuple[str, str, list[tuple[int, int, int]]]] = []
    # Parting first: a closure that follows at once has the last word.
    if sheet.contacts.parting and "lips" in edges:
        parted = runs(opening(filled) > PARTED)
        out.append(("parting", "lips", [(a, b - 1, (a + b - 1) // 2) for a, b in parted]))
    if sheet.contacts.lips and "lips" in edges:
        wide = opening(filled)
        shut = []
        for event in closures(filled):
            inner = [f for f in range(event.first, event.last + 1) if wide[f] <= max(0.04, wide[event.peak] + 0.02)]
            shut.append((inner[0], inner[-1], event.peak))
        out.append(("lips", "lips", shut))
    for side in ("Left", "Right"):
        name = f"lid {side.lower()}"
        if sheet.contacts.lids and name in edges and f"eyeBlink{side}" in channels.names:
            curve = filled.column(f"eyeBlink{side}")
            found = [e for e in blinks(curve, rate) if e.height >= SHUT_LID]
            spans = []
            for event in found:
                held = [f for f in range(event.first, event.last + 1) if curve[f] >= 0.9 * event.height]
                spans.append((held[0], held[-1], event.peak))
            out.append((name, name, spans))
    return out


def _soft(frames: int, first: int, last: int, soft: float) -> Array:
    """(frames,) 1 from first to last, falling smoothly to 0 over `soft` frames on both sides."""
    at = np.arange(frames)
    away = np.maximum(np.maximum(first - at, at - last), 0) / max(soft, 1.0)
    return np.asarray(np.where(away < 1, 0.5 + 0.5 * np.cos(np.pi * np.minimum(away, 1)), 0.0))


def _least(channels: Channels, edge: Edge) -> Array:
    """(frames, stations) metres that parted lips are open at least, for how far the performer's are."""
    wide = (
        np.clip(opening(replace(channels, values=bridged(channels.values))) - PARTED, 0, None) * OPEN_LEAST * edge.size
    )
    return np.asarray(np.repeat(wide[:, None], len(edge.gap), axis=1))


def _close(edge: Edge, targets: tuple[str, ...], weights: Floats, window: Array, least: Array | None, sheet: "CastSheet"
           ) -> Floats:  # fmt: skip
    """Weights with the gap brought to 0 (or to at least `least`) where the window is open, within the target's limits."""
    rows = np.flatnonzero(window > 0)
    change = edge.columns(targets)
    movers = np.flatnonzero(np.abs(change).max(axis=1) > 0.02 * np.abs(change).max(initial=0.0))
    if not len(rows) or not len(movers):
        return weights
    gains = change[movers] / edge.size  # (movers, stations), in widths
    start = weights[np.ix_(rows, movers)].astype(np.float64)
    held = start.copy()
    others = edge.gap + np.delete(weights[rows].astype(np.float64), movers, axis=1) @ np.delete(change, movers, axis=0)
    for _ in range(ROUNDS):
        gap = others / edge.size + held @ gains
        rest = -gap if least is None else np.maximum(least[rows] / edge.size - gap, 0)
        held = np.clip(held + rest @ np.linalg.solve(gains.T @ gains + _ridge(gains), gains.T), sheet.low, sheet.high)
    out = weights.copy()
    out[np.ix_(rows, movers)] = start + window[rows, None] * (held - start)
    return out


def _ridge(gains: Array) -> Array:
    size = RIDGE * float(np.trace(gains.T @ gains)) / gains.shape[1]
    return np.eye(gains.shape[1]) * max(size, 1e-12)
