"""At which frames two states of a layer say something else."""

from collections.abc import Mapping

import numpy as np

from dynaface.core.curves.keys import Keys, evaluate_keys
from dynaface.core.layers.layer import Layer
from dynaface.core.layers.span import Span


def changed_frames(before: Layer, after: Layer, frames: int) -> tuple[int, int]:
    """(first, stop) of the frames outside which both say the same, out of `frames`; (0, 0) where they say the same everywhere."""
    same = before.kind == after.kind and before.regions == after.regions and before.makers == after.makers
    if not same or before.weight != after.weight or _held(before) != _held(after):
        return 0, frames
    flags = np.zeros(frames, bool)
    for channel in set(before.keys) | set(after.keys):
        one, other = before.keys.get(channel, ()), after.keys.get(channel, ())
        if one != other:
            flags |= _apart(one, other, frames)
    for span in _apart_spans(before, after):
        low, high = span.touched(frames)
        flags[low:high] = True
    at = np.flatnonzero(flags)
    return (int(at[0]), int(at[-1]) + 1) if len(at) else (0, 0)


def _held(layer: Layer) -> frozenset[str]:
    """Channels on which keys of a layer that replaces stand in everywhere, whatever they say."""
    return frozenset(c for c, keys in layer.keys.items() if keys) if layer.kind == "replace" else frozenset()


def _apart(one: Keys, other: Keys, frames: int) -> np.ndarray:
    if not one or not other:
        return np.ones(frames, bool)
    return np.asarray(evaluate_keys(one, frames) != evaluate_keys(other, frames))


def _apart_spans(before: Layer, after: Layer) -> list[Span]:
    """The spans of either that the other has not got as they are."""
    one, other = _by_id(before), _by_id(after)
    return [
        s
        for key in set(one) | set(other)
        for s in (one.get(key), other.get(key))
        if s and one.get(key) != other.get(key)
    ]


def _by_id(layer: Layer) -> Mapping[str, Span]:
    return {s.id or str(n): s for n, s in enumerate(layer.spans)}
