"""A take of several lines, with its voice: what the figures of tidying are measured on."""

import json

import numpy as np

from dynaface.assets import ASSETS
from dynaface.core.curves.channels import Channels
from dynaface.core.sound.sound import Sound
from dynaface.formats.entries import wav
from dynaface.sims.actor import Temper, act
from dynaface.sims.speech import Phone

FOLDER = ASSETS / "bench/speech"


def long_take(seed: int, lines: int = 6, rate: int = 60) -> tuple[Channels, Sound, list[Phone]]:
    """(truth, voice, phones) of some lines one after the other with pauses between, at `rate` frames a second."""
    rng = np.random.default_rng(seed)
    known = json.loads((FOLDER / "lines.json").read_text())
    phones: list[Phone] = []
    parts: list[np.ndarray] = []
    at = 0.0
    sounds = {}
    for line in rng.permutation(len(known))[:lines]:
        said = known[int(line)]
        voice = sounds[line] = wav.read((FOLDER / said["file"]).read_bytes())
        pause = float(rng.uniform(0.9, 1.8))
        silent = round(pause * voice.rate)
        parts += [np.zeros(silent, np.float32), voice.mono()]
        at += silent / voice.rate
        phones.append(Phone("SIL", at - silent / voice.rate, at))
        phones += [Phone(p["name"], p["start"] + at, p["end"] + at) for p in said["phones"]]
        at += len(voice.samples) / voice.rate
    temper = Temper(blinks=float(rng.uniform(13, 22)), gaze=float(rng.uniform(6, 11)), head=float(rng.uniform(3, 7)),
                    brow=float(rng.uniform(0.3, 0.7)), smile=float(rng.uniform(-0.15, 0.3)))  # fmt: skip
    samples = np.concatenate(parts)[:, None]
    return act(phones, at, seed, temper, rate), Sound(samples, voice.rate), phones
