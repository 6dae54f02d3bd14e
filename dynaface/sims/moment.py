"""One moment that several machines record: voices in a room, claps, and a head that a suit and a camera see; the truth is known."""

import json
from collections.abc import Sequence
from dataclasses import replace
from fractions import Fraction
from typing import Any

import numpy as np
from scipy.signal import fftconvolve, lfilter

from dynaface.assets import ASSETS
from dynaface.core.body.rotations import IDENTITY, Array, about, head_angles, inverse, multiply, slerp
from dynaface.core.body.skeleton import Motion
from dynaface.core.curves.channels import Channels
from dynaface.core.head.neck import head_chain
from dynaface.core.shapes.standard import HEAD_ANGLES
from dynaface.core.sound.sound import Sound
from dynaface.formats.entries import wav
from dynaface.sims.speech import Phone

FOLDER = ASSETS / "bench/speech"
SET_ON = ("my_", "put_")  # how files of lines begin on which numbers are set; figures are of the others
RATE = 48_000  # samples a second of the room
APART, MEET = 62.0, 108.5  # degrees of the upper arms, straight ahead at 90: before a clap, and where the hands meet


def spoken_lines(seconds: float, rng: np.random.Generator, to_set: bool = False) -> tuple[Sound, list[Phone]]:
    """Lines with pauses of chance, at least so long, with the phones as they are said; to_set: those on which numbers are set, not others."""
    lines = lines_of_speech(to_set)
    parts, phones, at = [], [], 0.0
    while at < seconds:
        line = lines[int(rng.integers(len(lines)))]
        said = wav.read((FOLDER / line["file"]).read_bytes())
        mono = said.mono().astype(np.float64)
        dense = np.interp(np.arange(int(len(mono) * RATE / said.rate)) * said.rate / RATE, np.arange(len(mono)), mono)
        pause = np.zeros(int(rng.uniform(0.2, 1.4) * RATE))
        phones += [Phone(**(p | {"start": p["start"] + at, "end": p["end"] + at})) for p in line["phones"]]
        parts += [dense, pause]
        at += (len(dense) + len(pause)) / RATE
    return Sound(np.concatenate(parts).astype(np.float32)[:, None], RATE), phones


def lines_of_speech(to_set: bool = False) -> list[dict[str, Any]]:
    """Lines with their file in `FOLDER`, text, length and phones: those on which numbers are set, or those of which figures are."""
    every: list[dict[str, Any]] = json.loads((FOLDER / "lines.json").read_text())
    return [line for line in every if line["file"].startswith(SET_ON) == to_set]


def clapped(room: Sound, moments: Sequence[float], rng: np.random.Generator) -> Sound:
    """The room with claps at these seconds: a burst of a few milliseconds that dies away."""
    out = room.samples.copy()
    loud = float(np.abs(out).max())
    for moment in moments:
        length = int(0.12 * RATE)
        tail = np.exp(-np.arange(length) / (0.012 * RATE))
        burst = rng.normal(0, 1, length) * tail
        at = int(moment * RATE)
        burst = burst[: len(out) - at]
        out[at : at + len(burst), 0] += (burst / np.abs(burst).max() * loud * rng.uniform(0.8, 1.6)).astype(np.float32)
    return Sound(out, RATE)


def heard(room: Sound, first: float, seconds: float, rate: int, drift: float, noise: float, rng: np.random.Generator
          ) -> Sound:  # fmt: skip
    """What one recorder writes of a room from a second on. drift: parts of a million by which its second lasts longer; it has a
    microphone of its own, stands somewhere in the room, and hisses by `noise`.
    """
    mono = room.mono().astype(np.float64)
    echo = np.zeros(int(0.15 * RATE))
    echo[0] = 1.0
    late = rng.integers(int(0.004 * RATE), len(echo), 40)
    echo[late] += rng.normal(0, 0.18, 40) * np.exp(-late / (0.05 * RATE))
    wet = fftconvolve(mono, echo)[: len(mono)]
    tone = rng.uniform(0.2, 0.75)
    wet = lfilter([1 - tone], [1, -tone], wet) + rng.uniform(0, 0.5) * np.diff(wet, prepend=0.0)
    at = (first + np.arange(int(seconds * rate)) / rate * (1 + drift * 1e-6)) * RATE
    out = np.interp(at, np.arange(len(wet)), wet)
    out = out / max(np.abs(out).max(), 1e-9) * rng.uniform(0.2, 0.9)
    out = out + rng.normal(0, noise, len(out))
    return Sound(np.clip(out, -1, 1).astype(np.float32)[:, None], rate)


def clapping(body: Motion, moments: Sequence[float]) -> Motion:
    """The body with its hands meeting before it at these seconds."""
    local = body.local.copy()
    times = np.arange(body.frames) / float(body.rate)
    at = {n: i for i, n in enumerate(body.skeleton.names)}
    for moment in moments:
        since = times - moment
        # The arms come quicker and quicker and stop at once; then they part slowly.
        come = np.clip(1 + since / 0.28, 0, 1) ** 2
        angle = np.where(since <= 0, APART + (MEET - APART) * come, MEET - 25 * np.clip(since / 0.5, 0, 1))
        share = np.clip((since + 0.9) / 0.6, 0, 1) * np.clip((1.2 - since) / 0.6, 0, 1)
        for end, sign in (("_L", -1.0), ("_R", 1.0)):
            for joint, turn in (
                ("UpperArm", about("y", sign * angle)),
                ("ForeArm", np.tile(IDENTITY, (len(times), 1))),
            ):
                index = at[joint + end]
                local[:, index] = slerp(local[:, index], turn, share)
    return replace(body, local=local)


def seen_by_camera(body: Motion, first: float, seconds: float, rate: Fraction, noise: float, rng: np.random.Generator
                   ) -> Channels:  # fmt: skip
    """The head angles that a camera beside the performer writes of a body's head, from a second on; noise: degrees."""
    times = first + np.arange(int(seconds * float(rate))) / float(rate)
    head = head_chain(body.skeleton)[-1]
    turns: Array = body.skeleton.pose(*body.at(times))[0][:, head]
    turns = multiply(turns, inverse(body.skeleton.global_rest()[0][head]))
    stands = about("y", np.full(len(times), rng.uniform(-40, 40)))
    angles = np.stack(head_angles(multiply(stands, turns)), axis=1) + rng.normal(0, noise, (len(times), 3))
    return Channels(HEAD_ANGLES, angles.astype(np.float32), rate)
