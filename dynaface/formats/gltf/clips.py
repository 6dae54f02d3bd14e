"""Animated shapes of a glTF as curves: its meshes are set aside."""

from dataclasses import dataclass, replace
from fractions import Fraction
from typing import Any

import numpy as np
from pygltflib import GLTF2

from dynaface.core.cast.match import match_by_name
from dynaface.core.clock.rates import nominal_rate
from dynaface.core.clock.timecode import Timecode
from dynaface.core.curves.channels import Channels
from dynaface.core.errors import InputError, LimitError
from dynaface.formats.gltf.bodies import noted_timecode
from dynaface.formats.gltf.document import open_glb, scaled_array
from dynaface.formats.gltf.names import node_name, target_names
from dynaface.formats.gltf.sampled import sampled

MAX_FRAMES = 600_000
PERCENT = 2.0  # a weight above this is thought to be of 0..100


@dataclass(frozen=True)
class Clip:
    """name; channels: even in time; matched: (target, channel) pairs; unmatched: targets; notes: remarks in words; animation: its number in the
    file.
    """

    name: str
    channels: Channels
    matched: tuple[tuple[str, str], ...]
    unmatched: tuple[str, ...]
    notes: tuple[str, ...]
    animation: int = 0


def read_clips(data: bytes, start_frame: int = 0) -> list[Clip]:
    """Every animation that moves shapes, one clip each, its first frame at `start_frame` of the clip's own rate, or at the count that our own files note."""
    document = open_glb(data)
    clips = []
    for number, animation in enumerate(document.animations or []):
        found = [(node_name(document, n), t, at, v, way) for n, t, at, v, way in curves_of(document, animation)]
        if found:
            clip = _clip(animation.name or f"clip {number + 1}", found, start_frame)
            code = noted_timecode(animation) if not start_frame else None
            if code is not None:
                clip = replace(clip, channels=replace(clip.channels, timecode=code))
            clips.append(replace(clip, animation=number))
    if not clips:
        raise InputError(
            "no animation of this file moves any shapes", hint="Export it with the shapes' weights animated"
        )
    return clips


def curves_of(document: GLTF2, animation: Any) -> list[tuple[int, str, np.ndarray, np.ndarray, str]]:
    """(node, target, times (n,), values (n,) or (n, 3) of a cubic, interpolation) of each animated target."""
    out = []
    for channel in animation.channels:
        node = channel.target.node
        if channel.target.path != "weights" or not isinstance(node, int) or not 0 <= node < len(document.nodes):
            continue
        known = isinstance(channel.sampler, int) and 0 <= channel.sampler < len(animation.samplers)
        if document.nodes[node].mesh is None or not known:
            continue
        sampler = animation.samplers[channel.sampler]
        times = scaled_array(document, sampler.input)[:, 0]
        values = scaled_array(document, sampler.output).ravel()
        names = target_names(document, document.nodes[node].mesh)
        cubic = sampler.interpolation == "CUBICSPLINE"
        if not len(names) or len(values) != len(times) * len(names) * (3 if cubic else 1):
            raise InputError(
                f"the animation of {node_name(document, node)!r} has {len(values)} values for {len(times)} moments"
            )
        if len(times) and (np.diff(times) < 0).any():
            raise InputError(f"the animation of {node_name(document, node)!r} goes backward in time")
        shaped = values.reshape(len(times), 3, len(names)) if cubic else values.reshape(len(times), len(names))
        out += [(node, t, times, shaped[..., i], sampler.interpolation or "LINEAR") for i, t in enumerate(names)]
    return out


def _clip(name: str, found: list[tuple[str, str, np.ndarray, np.ndarray, str]], start_frame: int) -> Clip:
    longest = max((times for _, _, times, _, _ in found), key=len)
    if len(longest) < 2:
        raise InputError(f"the clip {name!r} has {len(longest)} moment; it does not move")
    rate: Fraction = nominal_rate(longest)
    first, last = min(t[0] for _, _, t, _, _ in found if len(t)), max(t[-1] for _, _, t, _, _ in found if len(t))
    frames = round((last - first) * float(rate)) + 1
    if frames > MAX_FRAMES:
        raise LimitError(f"the clip {name!r} has {frames} frames", hint=f"At most {MAX_FRAMES}")
    at = first + np.arange(frames) / float(rate)
    curves: dict[str, np.ndarray] = {}
    matched, unmatched, notes = [], [], []
    for mesh, target, times, values, way in found:
        match = match_by_name(target)
        if match is None or match.how not in ("name", "unit", "split"):
            unmatched.append(target)
            continue
        curve = sampled(times, values, way, at)
        for shape, _ in match.parts:
            # A mesh on which a shape never moves is turned by a joint instead.
            if shape in curves and _apart(curves[shape], curve) and match.how == "name":
                notes.append(f"{target} moves otherwise on {mesh}; the stronger is kept")
            curves[shape] = np.maximum(curves[shape], curve) if shape in curves else curve
            matched.append((target, shape))
    if not curves:
        raise InputError(f"no moving target of the clip {name!r} is a face shape by its name",
                         hint="Bring the file in as a character and match it at the Cast desk")  # fmt: skip
    highest = max(float(np.abs(c).max()) for c in curves.values())
    if highest > PERCENT:
        notes.append(f"Weights go up to {highest:.0f}: they were taken as 0..100")
        curves = {s: c / 100 for s, c in curves.items()}
    values32 = np.stack(list(curves.values()), axis=1).astype(np.float32)
    channels = Channels(tuple(curves), values32, rate, 0.0, Timecode(start_frame, rate))
    return Clip(
        name, channels, tuple(dict.fromkeys(matched)), tuple(dict.fromkeys(unmatched)), tuple(dict.fromkeys(notes))
    )


def _apart(one: np.ndarray, other: np.ndarray) -> bool:
    """Whether two curves that both move are not the same."""
    return bool(one.any() and other.any() and np.abs(one - other).max() > 0.01)
