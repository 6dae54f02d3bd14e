"""Lanes of a role: placed clips, cut, faded and laid over each other, as channels at the shot's frames."""

from collections.abc import Sequence
from fractions import Fraction

import numpy as np

from dynaface.core.clock.timecode import Timecode
from dynaface.core.curves.channels import Channels, Floats
from dynaface.core.curves.resample import resample
from dynaface.core.layers.weight import Amounts, toward
from dynaface.core.numeric.ease import eased
from dynaface.core.shapes.standard import CHANNELS
from dynaface.core.shot.placement import NEAR, Placement, presence

EASE = 0.25  # seconds over which a face comes to rest where no clip is


def lay(placed: Sequence[tuple[Placement, Channels]], rate: Fraction, frames: int,
        timecode: Timecode | None = None) -> Channels:  # fmt: skip
    """(frames, channels) of a role's placements, each with its take's channels, at `rate` frames a second.

    Where no clip is, the face is at rest; what the clip beside it showed last goes there over EASE seconds. Two clips of a lane that
    overlap go over into each other. Channels are those of all takes; a take without one has it at rest. timecode: of frame 0.
    """
    shown = sorted(((p, c) for p, c in placed if not p.mute and c.frames), key=lambda pc: (pc[0].lane, pc[0].start))
    names = tuple(n for n in CHANNELS if any(n in c.names for _, c in shown))
    out = np.zeros((frames, len(names)), np.float32)
    for one, channels in shown:
        _ease(out, names, one, channels, rate, [p for p, _ in shown])
    for one, channels in shown:
        low, high = window(one, rate, frames)
        if high <= low:
            continue
        at = np.arange(low, high) / float(rate)
        share = share_of(one, [p for p, _ in shown], at, frames, low)
        out[low:high] = toward(out[low:high], _seen(one, channels, at, names), share, names)
    return Channels(names, out, rate, 0.0, timecode)


def covered(placed: Sequence[Placement], rate: Fraction, frames: int) -> Amounts:
    """(frames,) 0..1 of how far any of these placements shows a face, easing to none beside them as `lay` does."""
    shown = [p for p in placed if not p.mute]
    out = np.zeros(frames)
    for one in shown:
        low, high = window(one, rate, frames, EASE)
        if high > low:
            at = np.arange(low, high) / float(rate)
            out[low:high] = np.maximum(
                out[low:high], _eased_share(one, shown, at, rate) * one.weight.at(frames)[low:high]
            )
    return np.minimum(out, 1.0)


def share_of(one: Placement, others: Sequence[Placement], at: Amounts, frames: int, low: int) -> Amounts:
    """(n,) of how far a placement lies over what is beneath it at seconds of the shot (n,), the first of them frame `low`; others: all of
    its role's placements of that kind.
    """
    fade_in, fade_out = _fades(one, others)
    return presence(one, at, fade_in, fade_out) * one.weight.at(frames)[low : low + len(at)]


def _ease(
    out: Floats, names: tuple[str, ...], one: Placement, seen: Channels, rate: Fraction, others: Sequence[Placement]
) -> None:
    """What the ends of a placement show, held and fading outside of it, under everything else; not where another goes on."""
    low, high = window(one, rate, len(out), EASE)
    if high <= low:
        return
    at = np.arange(low, high) / float(rate)
    share = _eased_share(one, others, at, rate) * one.weight.at(len(out))[low:high]
    out[low:high] = toward(out[low:high], _seen(one, seen, at, names), share, names)


def _eased_share(one: Placement, others: Sequence[Placement], at: Amounts, rate: Fraction) -> Amounts:
    """(n,) at seconds of the shot (n,): 1 where the placement is, easing to 0 outside of it, but not where another goes on."""
    follows = any(p.start <= one.stop < p.stop for p in others)
    leads = any(p.start < one.start <= p.stop for p in others)
    before = np.where(at < float(one.start), np.inf if leads else float(one.start) - at, 0)
    after = np.where(at >= float(one.stop), np.inf if follows else at - float(one.stop) + 1 / float(rate), 0)
    return eased(1 - np.maximum(before, after) / EASE)


def window(one: Placement, rate: Fraction, frames: int, beside: float = 0.0) -> tuple[int, int]:
    """(first frame of a shot, the one after the last) at which a placement is seen, or lies no more than seconds `beside` it."""
    low = np.ceil((float(one.start) - beside) * float(rate) - NEAR)
    high = np.ceil((float(one.stop) + beside) * float(rate) - NEAR)
    return max(int(low), 0), min(int(high), frames)


def _fades(one: Placement, all_placed: Sequence[Placement]) -> tuple[float, float]:
    """Its own fades in seconds, the first one at least as long as it overlaps the clip before it on its lane."""
    before = [p.stop - one.start for p in all_placed if p.lane == one.lane and p.start < one.start < p.stop]
    return float(max([one.fade_in, *(min(b, one.seconds) for b in before)])), float(one.fade_out)


def _seen(one: Placement, channels: Channels, at: Amounts, names: tuple[str, ...]) -> Floats:
    """(n, names) of what the source shows at seconds of the shot (n,)."""
    where, passes = one.source_at(at)
    values = _sampled(channels, where, names)
    seam = float(one.seam)
    if seam > 0 and one.repeats > 1:
        # Toward the end of each pass but the last: what comes before the stretch leads into its beginning.
        left = (float(one.last) - where) / float(one.speed)
        again = passes < np.ceil(float(one.repeats) - 1e-9) - 1
        share = np.where(again, eased(1 - left / seam), 0.0)
        if share.any():
            ahead = np.maximum(float(one.first) - left * float(one.speed), 0)
            values = toward(values, _sampled(channels, ahead, names), share, names)
    return values


def _sampled(channels: Channels, seconds: Amounts, names: tuple[str, ...]) -> Floats:
    """(n, names) at seconds of the source (n,); a moment on a frame is that frame."""
    frame = seconds * float(channels.rate)
    near = np.round(frame)
    frame = np.where(np.abs(frame - near) < NEAR, near, frame)
    frame = np.clip(frame, 0, channels.frames - 1)
    order = np.argsort(frame, kind="stable")
    kept = [i for i, n in enumerate(names) if n in channels.names]
    columns = [channels.names.index(names[i]) for i in kept]
    out = np.zeros((len(frame), len(names)), np.float32)
    low = int(frame.min(initial=channels.frames)) - 2
    high = int(frame.max(initial=0)) + 4
    low, high = max(low, 0), min(high, channels.frames)
    times = np.arange(low, high, dtype=np.float64)
    got = np.empty((len(frame), len(columns)), np.float32)
    got[order] = resample(times, channels.values[low:high][:, columns], frame[order], 1.5)
    out[:, kept] = got
    return out
