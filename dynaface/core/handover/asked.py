"""A performance as it is asked for: its stretch, its rate, with or without head motion and travel, with a rest frame."""

from dataclasses import replace

import numpy as np

from dynaface.core.body.rotations import continuous
from dynaface.core.body.skeleton import Skeleton
from dynaface.core.cast.apply import Turns
from dynaface.core.clock.rates import parse_rate
from dynaface.core.clock.timecode import from_seconds
from dynaface.core.curves.channels import Channels
from dynaface.core.errors import InputError
from dynaface.core.handover.options import HandoverOptions
from dynaface.core.head.neck import head_chain
from dynaface.core.perform.perform import Performance
from dynaface.core.perform.rerate import performance_at
from dynaface.core.shapes.standard import HEAD_ANGLES, HEAD_TRAVEL


def asked(made: Performance, skeleton: Skeleton | None, options: HandoverOptions) -> Performance:
    """The performance that the options ask for; raises InputError where there is nothing of that stretch. skeleton: of its character."""
    made = stretch(made, options)
    if options.rate:
        made = performance_at(made, parse_rate(options.rate))
    if not options.head:
        made = without_head(made, skeleton)
    if not options.travel:
        made = replace(made, root=np.tile(made.root[:1], (len(made.root), 1)))
    return with_ends(made, skeleton, options)


def stretch(made: Performance, options: HandoverOptions) -> Performance:
    """Its frames from the first to the last that is asked for, with handles as far as there are frames; timecode goes along."""
    frames = made.channels.frames
    first = max((options.first or 0) - options.handles, 0)
    stop = min((frames - 1 if options.last is None else options.last) + options.handles, frames - 1) + 1
    if stop <= first:
        raise InputError(f"there are {frames} frames; none is left from frame {first} on", hint="Mark another range")
    return later(made.rows(slice(first, stop)), first)


def since(whole: Performance, part: Performance) -> float:
    """Seconds of the whole at which a part of it begins; negative where something was put before it."""
    return part.channels.start - whole.channels.start


def later(made: Performance, frames: int) -> Performance:
    """The same said to begin so many frames later (or, negative, earlier) on its own clock and count."""
    channels = made.channels
    by = frames / float(channels.rate)
    code = channels.timecode
    moved = code and from_seconds(max(code.seconds + by, 0), code.rate, code.drop)
    return replace(made, channels=replace(channels, start=channels.start + by, timecode=moved))


def without_head(made: Performance, skeleton: Skeleton | None) -> Performance:
    """No channels of the head; neck and head as at rest."""
    channels = made.channels
    kept = [i for i, n in enumerate(channels.names) if n not in HEAD_ANGLES + HEAD_TRAVEL]
    channels = replace(channels, names=tuple(channels.names[i] for i in kept), values=channels.values[:, kept])
    local = made.local.copy()
    for joint in head_chain(skeleton) if skeleton else ():
        assert skeleton is not None
        if skeleton.names[joint] in made.joints:
            local[:, made.joints.index(skeleton.names[joint])] = skeleton.rest[joint]
    return replace(made, channels=channels, local=local)


def with_ends(made: Performance, skeleton: Skeleton | None, options: HandoverOptions) -> Performance:
    """With a frame of the rest pose before, and one with the face at rest after, where they are asked for."""
    if options.rest:
        made = later(_joined(_still(made, skeleton, made.joints, np.zeros(3)), made), -1)
    if options.neutral:
        last = made.rows(slice(made.channels.frames - 1, made.channels.frames))
        made = _joined(made, _still(last, skeleton, made.head_joints, last.root[0]))
    return made


def _still(made: Performance, skeleton: Skeleton | None, joints: tuple[str, ...], root: np.ndarray) -> Performance:
    """One frame with all weights and shifts 0, these joints at rest and the others as in the first frame."""
    one = made.rows(slice(0, 1))
    local = one.local.copy()
    for number, name in enumerate(made.joints):
        if skeleton is not None and name in joints:
            local[:, number] = skeleton.rest[skeleton.index(name)]
    channels = replace(one.channels, values=np.zeros_like(one.channels.values))
    shifts = {joint: np.zeros_like(shift) for joint, shift in one.shifts.items()}
    cast = replace(one.cast, weights=np.zeros_like(one.cast.weights))
    return replace(one, channels=channels, cast=cast, local=local, root=np.asarray(root, np.float32)[None], shifts=shifts)  # fmt: skip


def _joined(before: Performance, after: Performance) -> Performance:
    """Two stretches of one performance, one behind the other; clock and count are those of the first."""

    def both(a: np.ndarray, b: np.ndarray) -> np.ndarray:
        return np.concatenate([a, b])

    def each(a: Turns, b: Turns) -> Turns:
        return {name: both(values, b[name]) for name, values in a.items()}

    one, other = before.cast, after.cast
    cast = replace(one, weights=both(one.weights, other.weights), eyes=each(one.eyes, other.eyes), turns=each(one.turns, other.turns),
                   shifts=each(one.shifts, other.shifts), reaches=each(one.reaches, other.reaches))  # fmt: skip
    channels: Channels = replace(before.channels, values=both(before.channels.values, after.channels.values))
    shifts = {joint: both(shift, after.shifts[joint]) for joint, shift in before.shifts.items()}
    local = continuous(both(before.local, after.local).astype(np.float64)).astype(np.float32)
    return replace(before, channels=channels, cast=cast, local=local, root=both(before.root, after.root), shifts=shifts)
