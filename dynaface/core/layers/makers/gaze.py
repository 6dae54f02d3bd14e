"""Gaze: the eyes dart to what they look at and hold it, the head follows, lids go along."""

from collections.abc import Mapping
from dataclasses import dataclass
from typing import Any

import numpy as np

from dynaface.core.body.rotations import Array, head_rotation, inverse, rotate
from dynaface.core.curves.channels import Channels
from dynaface.core.layers.around import Aim, Around
from dynaface.core.layers.blink import Blink, shut
from dynaface.core.layers.gaze import (
    CAPTURED,
    HELD,
    SIDES,
    angles_beneath,
    angles_of,
    dart_seconds,
    direction,
    eased,
    head_turns,
    limited,
    on_aim,
    steps,
)
from dynaface.core.layers.maker import Made, Maker
from dynaface.core.layers.profile import BUILT_IN
from dynaface.core.layers.weight import Amounts, turned
from dynaface.core.parameters import Parameter
from dynaface.core.shapes.gaze import DOWN_DEG, UP_DEG, looks_from_angles
from dynaface.core.shapes.standard import HEAD_ANGLES

REACH = 0.9  # of how far an eye turns: what lies beyond it the head does
HEAD_SECONDS, HEAD_PER_DEGREE = 0.25, 0.006  # a head's turn takes so long and so much more a degree
PLAIN = BUILT_IN["plain"]
BLINK = 0.3  # seconds
LID_DOWN, LID_UP = 0.45, 0.35  # of a lid for a whole look down, up


@dataclass(frozen=True)
class _Look:
    """Frames first..stop - 1 at an aim; None as captured or held."""

    first: int
    stop: int
    name: str
    aim: Aim | None


def _make(below: Channels, parameters: Mapping[str, Any], around: Around) -> Made:
    looks = _looks(below.frames, parameters["looks"], around)
    if all(n.name == CAPTURED for n in looks):
        return {}
    rate = float(below.rate)
    beneath = head_turns(below)
    extra = _head(below, looks, beneath, parameters, around)
    angles = np.stack([np.nan_to_num(below.column(n)) for n in HEAD_ANGLES], axis=1).astype(np.float32)
    after = turned(angles, extra.astype(np.float32), np.ones(below.frames))
    head = head_rotation(*after.T.astype(np.float64))
    random = np.random.default_rng(int(parameters["seed"]))
    at = np.arange(below.frames) / rate
    small = np.stack([steps(at, random, parameters["hold"]) * parameters["steps"] for _ in range(2)], axis=1)
    out: dict[str, Amounts] = {n: extra[:, i] for i, n in enumerate(HEAD_ANGLES)}
    darts: list[int] = []
    for side in SIDES:
        before = angles_beneath(below, side)
        wanted, made, large = _eye(below, looks, side, before, (beneath, head), parameters, around)
        wanted = limited(wanted + small * made[:, None], side)
        darts = large
        out |= _differences(below, side, before, np.where(made[:, None] > 0, wanted, before), parameters["lids"])
    for side in ("Left", "Right"):
        lid = f"eyeBlink{side}"
        low = np.nan_to_num(below.column(lid)).astype(np.float64) + out.get(lid, 0.0)
        closed = shut([Blink(f) for f in darts], below.frames, BLINK * rate, PLAIN.upper_at, PLAIN.closing)
        out[lid] = out.get(lid, 0.0) + np.maximum(1 - low, 0) * closed
    return {channel: curve for channel, curve in out.items() if np.any(curve)}


def _looks(frames: int, rows: tuple[tuple[int, str], ...], around: Around) -> list[_Look]:
    """Stretches without a gap over all frames; a look at an aim that is not there any more is as captured."""
    starts = [(0, CAPTURED), *(r for r in rows if r[0] < frames)]
    ends = [first for first, _ in starts[1:]] + [frames]
    out = []
    for (first, name), stop in zip(starts, ends, strict=True):
        known = name if name in around.aims or name == HELD else CAPTURED
        if stop > first:
            out.append(_Look(first, stop, known, around.aims.get(known)))
    return out


def _head(
    below: Channels, looks: list[_Look], beneath: Array, parameters: Mapping[str, Any], around: Around
) -> Amounts:
    """(frames, 3) degrees by which the head turns, nods and tilts besides, for each look later than the eyes."""
    rate = float(below.rate)
    out = np.zeros((below.frames, 3))
    at = np.arange(below.frames) / rate
    now = np.zeros(2)
    for look in looks:
        wish = np.zeros(2)
        if look.aim is not None and not look.aim.on_head:
            part = slice(look.first, look.stop)
            aim = look.aim if look.aim.at.ndim == 1 else Aim(look.aim.at[part])
            off = on_aim(aim, beneath[part], around.eyes, "left", 0.0).mean(axis=0)
            # Whatever is farther than eyes turn is the head's to do.
            beyond = off - limited(off, "left", REACH)
            wish = beyond + (off - beyond) * parameters["head"]
        if np.any(wish != now):
            begins = look.first / rate + parameters["late"] / 1000
            lasts = HEAD_SECONDS + HEAD_PER_DEGREE * float(np.linalg.norm(wish - now))
            out[:, :2] += (wish - now) * eased((at - begins) / lasts)[:, None]
            now = wish
    return out


def _eye(
    below: Channels, looks: list[_Look], side: str, before: Amounts, heads: tuple[Array, Array], parameters: Mapping[str, Any],
    around: Around,
) -> tuple[Amounts, Amounts, list[int]]:  # fmt: skip
    """((frames, 2) degrees of an eye against the head; (frames,) how far that is made, 0..1; frames of darts that blink)."""
    frames, rate = below.frames, float(below.rate)
    beneath, head = heads
    at = np.arange(frames) / rate
    out, made = before.copy(), np.zeros(frames)
    large: list[int] = []
    last: _Look | None = None
    for look in looks:
        there = _angles(look, side, before, beneath, head, parameters, around)
        if look.name == CAPTURED and last is None:
            last = look
            continue
        come = there if last is None else _angles(last, side, before, beneath, head, parameters, around)
        angle = float(np.linalg.norm(there[look.first] - come[look.first]))
        # A dart takes as long as its angle says, but never less than one frame.
        lasts = max(float(dart_seconds(angle)), 1 / rate)
        share = eased((at - look.first / rate) / lasts) if last is not None else np.ones(frames)
        part = slice(look.first, look.stop)
        out[part] = (come + (there - come) * share[:, None])[part]
        was = 0.0 if last is None or last.name == CAPTURED else 1.0
        now = 0.0 if look.name == CAPTURED else 1.0
        made[part] = np.maximum(was * (share < 1), np.where(share > 0, now, 0.0))[part]
        if parameters["blinks"] and last is not None and angle >= parameters["blinks"]:
            large.append(round(look.first + lasts * rate / 2) + 1)
        last = look
    return out, made, large


def _angles(look: _Look, side: str, before: Amounts, beneath: Array, head: Array, parameters: Mapping[str, Any], around: Around
            ) -> Amounts:  # fmt: skip
    """(frames, 2) degrees of an eye for the whole of a look, at all frames."""
    if look.aim is not None:
        return on_aim(look.aim, head, around.eyes, side, parameters["convergence"])
    if look.name == CAPTURED:
        return before
    part = slice(look.first, look.stop)
    there = np.median(angles_of(rotate(beneath[part], direction(before[part]))), axis=0)
    return angles_of(rotate(inverse(head), direction(there)))


def _differences(below: Channels, side: str, before: Amounts, after: Amounts, lids: float) -> dict[str, Amounts]:
    """What brings an eye from angles to others (frames, 2), and its lid along."""
    end = side.capitalize()
    moved = np.any(after != before, axis=1)
    out: dict[str, Amounts] = {}
    for way, wanted in looks_from_angles(after[:, 0], after[:, 1], side).items():
        channel = f"eyeLook{way}{end}"
        now = np.nan_to_num(below.column(channel)).astype(np.float64)
        out[channel] = np.where(moved, wanted - now, 0.0)
    for column, word in enumerate(("Turn", "Nod")):
        if f"gaze{word}{end}" in below.names:
            out[f"gaze{word}{end}"] = after[:, column] - before[:, column]
    down = np.clip(-after[:, 1], 0, None) - np.clip(-before[:, 1], 0, None)
    up = np.clip(after[:, 1], 0, None) - np.clip(before[:, 1], 0, None)
    for channel, change in ((f"eyeBlink{end}", down / DOWN_DEG * LID_DOWN), (f"eyeWide{end}", up / UP_DEG * LID_UP)):
        now = np.nan_to_num(below.column(channel)).astype(np.float64)
        out[channel] = np.maximum(change * lids, -np.maximum(now, 0))
    return out


MAKER = Maker(
    "gaze",
    "Gaze",
    "The eyes look at aims, one after the other; the head follows",
    (
        Parameter("looks", "Looks", "looks", {}, help="From which frame on the eyes look at which aim"),
        Parameter("head", "Head's share", "number", 0.3, "", 0, 1, 0.01, help="Of the way to an aim; the eyes do the rest"),
        Parameter("late", "Head later", "number", 80.0, "ms", 0, 600, 5),
        Parameter("convergence", "Eyes meet", "number", 1.0, "", 0, 1, 0.01, help="How far each eye looks at the aim itself"),
        Parameter("steps", "Small steps", "number", 0.35, "deg", 0, 2, 0.05, help="While the eyes hold"),
        Parameter("hold", "Between steps", "number", 0.7, "s", 0.3, 3, 0.05),
        Parameter("seed", "Chance", "number", 1.0, "", 0, 9999, 1, help="Another number gives other small steps"),
        Parameter("lids", "Lids follow", "number", 0.6, "", 0, 1, 0.01),
        Parameter("blinks", "Blink from", "number", 25.0, "deg", 0, 90, 1, help="Darts as large as this blink; 0: none does"),
    ),
    _make,
    frozenset({"eyes", "aims"}),
)  # fmt: skip
