"""What a snag is, what a detector is given, and what it is."""

from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass, field
from functools import cached_property
from typing import Any, Generic, TypeVar

import numpy as np
from numpy.typing import NDArray

from dynaface.core.curves.channels import Channels
from dynaface.core.curves.known_runs import runs
from dynaface.core.curves.noise import noise_of
from dynaface.core.curves.opening import spoken
from dynaface.core.shapes.standard import full_range
from dynaface.core.sound.sound import Sound, energy

E = TypeVar("E")


@dataclass(frozen=True)
class Evidence:
    """channels: what is looked at; sound: the voice, its time 0 at `sound_start` seconds of the channels (None: no
    sound). What several detectors need is worked out once.
    """

    channels: Channels
    sound: Sound | None = None
    sound_start: float = 0.0

    @property
    def rate(self) -> float:
        """Frames a second."""
        return float(self.channels.rate)

    def frames(self, seconds: float) -> int:
        """Seconds in whole frames, at least one."""
        return max(1, round(seconds * self.rate))

    def column(self, name: str) -> NDArray[np.float64]:
        """(frames,) of a channel as float64; 0 where the take has none."""
        return self.channels.column(name).astype(np.float64)

    def has(self, *names: str) -> bool:
        """Whether all of these channels are there."""
        return all(n in self.channels.names for n in names)

    @cached_property
    def scale(self) -> NDArray[np.float64]:
        """(channels,) what 1 of a weight is worth: 1, and 30 degrees for an angle."""
        return np.array([full_range(n) for n in self.channels.names])

    @cached_property
    def scaled(self) -> NDArray[np.float64]:
        """(frames, channels) with angles brought to the size of weights."""
        return np.asarray(self.channels.values / self.scale)

    @cached_property
    def noise(self) -> NDArray[np.float64]:
        """(channels,) noise of each channel over the take, scaled."""
        return noise_of(self.scaled)

    @cached_property
    def opening(self) -> NDArray[np.float64]:
        """(frames,) how open the mouth is, for what is heard."""
        return spoken(self.channels)

    @cached_property
    def loudness(self) -> NDArray[np.float64] | None:
        """(frames,) dB relative to the loudest frame, -60 where there is no sound; None without sound."""
        if self.sound is None:
            return None
        heard = energy(self.sound, self.rate)
        out = np.full(self.channels.frames, -60.0)
        shift = round(self.sound_start * self.rate)
        first, last = max(0, shift), min(self.channels.frames, shift + len(heard))
        if last > first:
            out[first:last] = heard[first - shift : last - shift]
        return out


@dataclass(frozen=True)
class Snag:
    """One place where something looks wrong.

    channels: those it is about; first, last: frames, both included; severity: 0..1; measured and limit in `unit`;
    words: what an animator would say; steps: the proposed mend, as plain steps of a stack with their places;
    sound_shift: seconds by which the sound should be moved instead, 0 for none; twin: tells snags apart that would have
    the same key, in order of time.
    """

    kind: str
    region: str
    channels: tuple[str, ...]
    first: int
    last: int
    severity: float
    measured: float
    limit: float
    unit: str
    words: str
    steps: tuple[Mapping[str, Any], ...] = ()
    sound_shift: float = 0.0
    twin: int = 0

    @property
    def key(self) -> str:
        """The same for the same trouble in the same place, so that a dismissal stays with it."""
        twin = f".{self.twin}" if self.twin else ""
        return f"{self.kind.replace(' ', '-')}.{'+'.join(self.channels[:2])}.{self.first // 8}{twin}"

    def describe(self) -> dict[str, Any]:
        """As plain data."""
        return {
            "key": self.key, "kind": self.kind, "region": self.region, "channels": list(self.channels), "first": self.first,
            "last": self.last, "severity": round(self.severity, 3), "measured": round(self.measured, 4),
            "limit": round(self.limit, 4), "unit": self.unit, "words": self.words, "steps": [dict(s) for s in self.steps],
            "soundShift": self.sound_shift,
        }  # fmt: skip


@dataclass(frozen=True)
class Detector(Generic[E]):
    """Finds one kind of trouble in evidence. find: evidence -> snags, in order of time; it changes nothing."""

    name: str
    label: str
    help: str
    find: Callable[[E], Sequence[Snag]]
    needs: tuple[str, ...] = field(default=())
    """"sound" where it is silent without one."""

    def describe(self) -> dict[str, str]:
        """As plain data."""
        return {"name": self.name, "label": self.label, "help": self.help}


def severity(measured: float, limit: float, worst: float) -> float:
    """0 at the limit .. 1 at `worst` and beyond, never quite 0."""
    return float(np.clip((measured - limit) / (worst - limit), 0.02, 1))


def place(channels: Sequence[str], first: int, last: int) -> dict[str, Any]:
    """A place of a step as plain data."""
    return {"channels": list(channels), "first": max(0, int(first)), "last": int(last)}


def step(name: str, places: Sequence[Mapping[str, Any]], ramp: float = 0.0, **parameters: Any) -> dict[str, Any]:
    """A step of a mend as plain data."""
    return {"step": name, "on": True, **parameters, "places": list(places), "ramp": ramp}


def merged(flags: Any, apart: int, least: int = 1) -> list[tuple[int, int]]:
    """(first, last) of runs of true in (frames,), joined when no farther apart than `apart`, at least `least` long."""
    out: list[tuple[int, int]] = []
    for first, stop in runs(flags):
        if out and first - out[-1][1] <= apart:
            out[-1] = (out[-1][0], stop - 1)
        else:
            out.append((first, stop - 1))
    return [(a, b) for a, b in out if b - a + 1 >= least]
