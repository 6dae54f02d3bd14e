"""Faults of a take, put into truth curves at known places: one function a kind of snag."""

from collections.abc import Callable, Sequence
from dataclasses import dataclass

import numpy as np

from dynaface.core.curves.channels import Channels, Recording
from dynaface.core.curves.events import Event, blinks, closures
from dynaface.core.shapes.regions import REGION
from dynaface.core.sound.sound import Sound
from dynaface.sims.speech import Phone

LIDS = ("eyeBlinkLeft", "eyeBlinkRight")


@dataclass(frozen=True)
class Fault:
    """Where something was broken: frames, both included, and channels."""

    first: int
    last: int
    channels: tuple[str, ...]


@dataclass
class Scene:
    """A take that is being broken: values (frames, channels) are changed in place."""

    truth: Channels
    values: np.ndarray
    voice: Sound
    phones: Sequence[Phone]
    rng: np.random.Generator
    late: float = 0.0

    def at(self, name: str) -> int:
        """The column of a channel."""
        return self.truth.names.index(name)

    def spans(self, count: int, shortest: float, longest: float) -> list[tuple[int, int]]:
        """Stretches of some seconds that lie apart from each other and from the ends."""
        rate, frames = float(self.truth.rate), self.truth.frames
        room = (frames - 60) / count
        out = []
        for k in range(count):
            length = int(self.rng.uniform(shortest, longest) * rate)
            first = 30 + int(k * room + self.rng.uniform(0, max(room - length - 20, 1)))
            out.append((first, min(first + length, frames - 20)))
        return out

    def silences(self, least: float) -> list[tuple[int, int]]:
        """Frames of pauses in speech of at least some seconds."""
        rate = float(self.truth.rate)
        return [(int(p.start * rate), int(p.end * rate)) for p in self.phones
                if p.name == "SIL" and p.end - p.start >= least]  # fmt: skip

    def lid_blinks(self) -> list[Event]:
        """The truth's blinks on the left lid."""
        return blinks(self.truth.column(LIDS[0]), float(self.truth.rate))


def _bump(frames: int, ramp: int) -> np.ndarray:
    """(frames,) 0..1..0 with soft flanks."""
    edge = np.minimum(np.arange(frames), np.arange(frames)[::-1]) / max(ramp, 1)
    part = np.clip(edge, 0, 1)
    return np.asarray(part * part * (3 - 2 * part))


def _jitter(scene: Scene) -> list[Fault]:
    out = []
    for first, last in scene.spans(3, 0.4, 1.2):
        region = str(scene.rng.choice(["lids", "brows", "lips", "jaw", "cheeks"]))
        names = tuple(n for n in scene.truth.names if REGION[n] == region)
        size = scene.rng.uniform(0.03, 0.07)
        for name in names:
            scene.values[first : last + 1, scene.at(name)] += scene.rng.normal(0, size, last - first + 1)
        out.append(Fault(first, last, names))
    return out


def _spikes(scene: Scene) -> list[Fault]:
    out = []
    for first, _ in scene.spans(6, 0.05, 0.05):
        name = str(scene.rng.choice([n for n in scene.truth.names if not n.startswith("head")]))
        length = int(scene.rng.integers(1, 3))
        scene.values[first : first + length, scene.at(name)] += scene.rng.uniform(0.15, 0.6) * scene.rng.choice([-1, 1])
        out.append(Fault(first, first + length - 1, (name,)))
    return out


def _frozen(scene: Scene) -> list[Fault]:
    out = []
    for first, last in scene.spans(3, 0.2, 0.9):
        scene.values[first : last + 1] = scene.values[first]
        out.append(Fault(first, last, scene.truth.names))
    return out


def _gaps(scene: Scene) -> list[Fault]:
    out = []
    for first, last in scene.spans(3, 0.08, 0.6):
        scene.values[first : last + 1] = np.nan
        out.append(Fault(first, last, scene.truth.names))
    return out


def _saturated(scene: Scene) -> list[Fault]:
    out = []
    for first, last in scene.spans(3, 0.7, 1.4):
        name = str(scene.rng.choice(["jawOpen", "mouthSmileLeft", "browInnerUp", "mouthFunnel", "cheekPuff"]))
        column = scene.at(name)
        lifted = scene.values[first : last + 1, column] + scene.rng.uniform(1.15, 1.5) * _bump(last - first + 1, 18)
        scene.values[first : last + 1, column] = np.clip(lifted, 0, 1)
        flat = np.flatnonzero(lifted >= 1)
        out.append(Fault(first + int(flat[0]), first + int(flat[-1]), (name,)))
    return out


def _lids_apart(scene: Scene) -> list[Fault]:
    out = []
    column = scene.at(LIDS[1])
    for blink in scene.lid_blinks()[1:-1:2]:
        late = int(scene.rng.integers(3, 7))
        first, last = blink.first - 6, blink.last + 12
        if first < 0 or last + late >= scene.truth.frames:
            continue
        kept = scene.truth.values[first:last, column]
        scene.values[first : last + late, column] = np.concatenate([np.full(late, kept[0]), kept])
        out.append(Fault(first, last + late, LIDS))
    return out


def _weak_blinks(scene: Scene) -> list[Fault]:
    out = []
    for blink in scene.lid_blinks()[::2]:
        share = scene.rng.uniform(0.42, 0.72)
        span = slice(max(0, blink.first - 5), blink.last + 8)
        for name in LIDS:
            scene.values[span, scene.at(name)] *= share
        out.append(Fault(blink.first, blink.last, LIDS))
    return out


def _one_eye(scene: Scene) -> list[Fault]:
    out = []
    for blink in scene.lid_blinks()[::2]:
        name = str(scene.rng.choice(LIDS))
        first, last = max(0, blink.first - 6), min(blink.last + 9, scene.truth.frames - 1)
        column = scene.at(name)
        ends = scene.values[[first, last], column]
        scene.values[first : last + 1, column] = np.linspace(min(ends[0], 0.3), min(ends[1], 0.3), last - first + 1)
        out.append(Fault(blink.first, blink.last, LIDS))
    return out


def _staring(scene: Scene) -> list[Fault]:
    first, last = scene.spans(1, 16, 22)[0]
    for name in LIDS:
        column = scene.at(name)
        for blink in blinks(scene.truth.column(name), float(scene.truth.rate)):
            if first <= blink.peak <= last:
                a, b = max(0, blink.first - 6), min(blink.last + 9, scene.truth.frames - 1)
                scene.values[a : b + 1, column] = np.linspace(
                    scene.values[a, column], scene.values[b, column], b - a + 1
                )
    return [Fault(first, last, LIDS)]


def _gaze_apart(scene: Scene) -> list[Fault]:
    out = []
    for first, last in scene.spans(3, 0.4, 1.5):
        side = str(scene.rng.choice(["Left", "Right"]))
        way, weight = (("Out", scene.rng.uniform(0.22, 0.45)), ("Up", scene.rng.uniform(0.22, 0.45)))[
            scene.rng.integers(2)
        ]
        soft = _bump(last - first + 1, 2)
        against = {"Out": "In", "Up": "Down"}[way]
        names = (f"eyeLook{way}{side}", f"eyeLook{against}{side}")
        scene.values[first : last + 1, scene.at(names[0])] += weight * soft
        scene.values[first : last + 1, scene.at(names[1])] *= 1 - soft
        out.append(Fault(first, last, names))
    return out


def _missed_closures(scene: Scene) -> list[Fault]:
    rate = float(scene.truth.rate)
    spoken = [(p.start + p.end) / 2 * rate for p in scene.phones if p.name in ("M", "B", "P")]
    shut = [c for c in closures(scene.truth) if any(abs(c.peak - s) <= 5 for s in spoken)]
    out = []
    for closure in shut[::2]:
        span = slice(max(0, closure.first - 4), closure.last + 5)
        length = span.stop - span.start
        soft = _bump(length, 4)
        for name in ("mouthPressLeft", "mouthPressRight", "mouthRollLower", "mouthRollUpper"):
            scene.values[span, scene.at(name)] *= 1 - 0.95 * soft
        jaw = scene.at("jawOpen")
        aim = scene.rng.uniform(0.07, 0.1)
        scene.values[span, jaw] = np.maximum(scene.values[span, jaw], aim * soft)
        out.append(Fault(closure.first, closure.last, ("jawOpen",)))
    return out


def _jaw_down(scene: Scene, silences: Sequence[tuple[int, int]], low: float, high: float) -> list[Fault]:
    """The jaw lower by some weight during pauses."""
    for first, last in silences:
        scene.values[first : last + 1, scene.at("jawOpen")] += scene.rng.uniform(low, high) * _bump(
            last - first + 1, 10
        )
    return [Fault(first, last, ("jawOpen",)) for first, last in silences]


def _lips_apart(scene: Scene) -> list[Fault]:
    return _jaw_down(scene, scene.silences(0.9), 0.08, 0.17)


def _open_mouth(scene: Scene) -> list[Fault]:
    return _jaw_down(scene, scene.silences(1.1)[::2], 0.3, 0.55)


def _lopsided(scene: Scene) -> list[Fault]:
    out = []
    for first, last in scene.spans(3, 0.9, 2.5):
        stem = str(scene.rng.choice(["mouthSmile", "browOuterUp", "cheekSquint", "noseSneer", "mouthFrown"]))
        name = stem + str(scene.rng.choice(["Left", "Right"]))
        scene.values[first : last + 1, scene.at(name)] += scene.rng.uniform(0.4, 0.6) * _bump(last - first + 1, 10)
        out.append(Fault(first, last, (name,)))
    return out


def _drift(scene: Scene) -> list[Fault]:
    region = str(scene.rng.choice(["brows", "cheeks", "lids", "nose"]))
    names = tuple(n for n in scene.truth.names if REGION[n] == region)
    slope = np.linspace(0, scene.rng.uniform(0.16, 0.3), scene.truth.frames)
    if scene.rng.uniform() < 0.5:
        slope = slope[::-1]
    for name in names:
        scene.values[:, scene.at(name)] += slope
    return [Fault(0, scene.truth.frames - 1, names)]


def _opposing(scene: Scene) -> list[Fault]:
    out = []
    for first, last in scene.spans(3, 0.4, 1.5):
        pair = [("mouthSmileLeft", "mouthFrownLeft"), ("jawLeft", "jawRight"), ("browDownLeft", "browOuterUpLeft")]
        names = pair[int(scene.rng.integers(len(pair)))]
        soft = scene.rng.uniform(0.28, 0.5) * _bump(last - first + 1, 6)
        for name in names:
            scene.values[first : last + 1, scene.at(name)] += soft
        out.append(Fault(first, last, names))
    return out


def _head_pops(scene: Scene) -> list[Fault]:
    out = []
    for first, _ in scene.spans(3, 0.2, 0.2):
        name = str(scene.rng.choice(["headTurn", "headNod", "headTilt"]))
        scene.values[first:, scene.at(name)] += scene.rng.uniform(4, 9) * scene.rng.choice([-1, 1])
        out.append(Fault(first - 1, first, (name,)))
    return out


def _late_sound(scene: Scene) -> list[Fault]:
    scene.late = float(scene.rng.uniform(0.1, 0.3) * scene.rng.choice([-1, 1]))
    return [Fault(0, scene.truth.frames - 1, ("jawOpen",))]


FAULTS: dict[str, Callable[[Scene], list[Fault]]] = {
    "jitter burst": _jitter, "spike": _spikes, "frozen": _frozen, "gap": _gaps, "saturation": _saturated,
    "lids out of step": _lids_apart, "weak blink": _weak_blinks, "one eye blinks": _one_eye, "no blink": _staring,
    "gaze apart": _gaze_apart, "missed closure": _missed_closures, "lips apart at rest": _lips_apart,
    "open in silence": _open_mouth, "lopsided": _lopsided, "drift": _drift, "opposing": _opposing,
    "head pop": _head_pops, "sound off": _late_sound,
}  # fmt: skip
"""A breaker for each kind of snag, under the detector's name."""


def break_take(truth: Channels, voice: Sound, phones: Sequence[Phone], kinds: Sequence[str], seed: int, noise: float = 0.003
               ) -> tuple[Channels, dict[str, list[Fault]], float]:  # fmt: skip
    """(damaged channels, where each kind was put, seconds by which the voice is late); noise: of all weights."""
    rng = np.random.default_rng(seed)
    degrees = np.array([30.0 if REGION[n] == "head" else 1.0 for n in truth.names])
    values = truth.values + rng.normal(0, 1, truth.values.shape) * noise * degrees
    scene = Scene(truth, values, voice, phones, rng)
    places = {kind: FAULTS[kind](scene) for kind in kinds}
    return truth.with_values(scene.values.astype(np.float32)), places, scene.late


def drop_frames(channels: Channels, seed: int, share: float = 0.03, lost: int = 5, stamp: float = 0.0015) -> Recording:
    """The take as a device would have written it: frames lost one by one and `lost` at once, stamps that are not even."""
    rng = np.random.default_rng(seed)
    rate = float(channels.rate)
    times = np.maximum.accumulate(np.arange(channels.frames) / rate + rng.normal(0, stamp, channels.frames))
    keep = rng.uniform(size=channels.frames) >= share
    at = int(channels.frames * rng.uniform(0.3, 0.7))
    keep[at : at + lost] = False
    keep[[0, -1]] = True
    ideal = np.arange(channels.frames) / rate
    values = np.stack([np.interp(times, ideal, column) for column in channels.values.T], axis=1)
    return Recording(channels.names, times[keep], values[keep].astype(np.float32), channels.rate, channels.timecode)
