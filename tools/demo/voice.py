"""Speaks a line with the speech synthesiser and finds when each phone is said by forced alignment."""

import re
import subprocess
import tempfile
from pathlib import Path

import numpy as np
from pocketsphinx import Decoder, get_model_path
from scipy.signal import resample_poly

from dynaface.core.sound.sound import Sound
from dynaface.formats.entries import wav
from dynaface.sims.speech import Phone

LEAD, TAIL = 0.9, 1.1  # silence before and after


def speak(text: str, voice: str, speed: int, pitch: int) -> Sound:
    """The line as sound, with silence before and after."""
    with tempfile.TemporaryDirectory() as folder:
        path = Path(folder) / "line.wav"
        subprocess.run(
            ["espeak-ng", "-v", voice, "-s", str(speed), "-p", str(pitch), "-w", str(path), text], check=True
        )
        said = wav.read(path.read_bytes())
    mono = said.mono()
    mono = mono / max(float(np.abs(mono).max()), 1e-6) * 0.7
    quiet = [np.zeros(int(s * said.rate), np.float32) for s in (LEAD, TAIL)]
    return Sound(np.concatenate([quiet[0], mono, quiet[1]])[:, None], said.rate)


def phones_of(text: str, sound: Sound) -> list[Phone]:
    """Phones with times in seconds, silence included."""
    # A synthetic voice is not what the model was trained on: which beam follows it differs from line to line, and a
    # little noise helps, for the model has never heard digital silence.
    for noise in (0.004, 0.0015, 0.008):
        for beam in (1e-48, 1e-64, 1e-80, 1e-100):
            found = _aligned(text, sound, beam, noise)
            if found:
                return found
    raise RuntimeError(f"the aligner did not follow {text!r}")


def _aligned(text: str, sound: Sound, beam: float, noise: float) -> list[Phone]:
    model = Path(get_model_path())
    decoder = Decoder(hmm=str(model / "en-us/en-us"), dict=str(model / "en-us/cmudict-en-us.dict"), lm=None,
                      samprate=16000, loglevel="FATAL", beam=beam, wbeam=beam, pbeam=beam)  # fmt: skip
    common = int(np.gcd(16000, sound.rate))
    mono = resample_poly(sound.mono(), 16000 // common, sound.rate // common)
    mono = mono + np.random.default_rng(0).normal(0, noise, len(mono))
    raw = (np.clip(mono, -1, 1) * 32767).astype("<i2").tobytes()
    decoder.set_align_text(" ".join(re.findall(r"[a-z']+", text.lower())))
    try:
        for run in range(2):  # the words first, then their phones
            decoder.start_utt()
            decoder.process_raw(raw, full_utt=True)
            decoder.end_utt()
            if run == 0:
                decoder.set_alignment()
    except RuntimeError:
        return []
    found = []
    for word in decoder.get_alignment():
        for phone in word:
            name = "SIL" if phone.name in ("SIL", "+SPN+", "+NSN+") else phone.name
            found.append(Phone(name, phone.start / 100, (phone.start + phone.duration) / 100))
    return found
