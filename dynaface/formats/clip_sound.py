"""The sound of a clip as a WAV, decoded and written piece by piece."""

from itertools import chain
from typing import BinaryIO

import av
import numpy as np

from dynaface.core.errors import InputError
from dynaface.core.sound.summary import SoundSummary
from dynaface.formats.entries import wav
from dynaface.formats.stored import Stored

MOST = 400_000_000  # bytes of samples; a longer sound comes in one channel, then at half its rate, and so on
BYTES = 2  # of a sample
FULL = 32768.0


def write_clip_sound(stored: Stored, seconds: float, out: BinaryIO, peaks_a_second: int) -> SoundSummary:
    """Writes the sound of a clip of so many seconds as 16 bit PCM; raises InputError where it has none, or none that can be decoded."""
    summary: SoundSummary | None = None
    with stored.file() as file, av.open(file) as container:
        if not container.streams.audio:
            raise InputError("the video has no sound in it")
        rate, channels = form_for(container.streams.audio[0].rate or 48000, seconds)
        resampler = av.AudioResampler(format="s16", layout="mono" if channels == 1 else "stereo", rate=rate)
        begins = out.write(wav.head(rate, channels, 0))
        for frame in chain(container.decode(audio=0), [None]):  # at last, what the resampler still holds
            for made in resampler.resample(frame):
                whole = made.to_ndarray().reshape(-1, channels)
                out.write(whole.astype("<i2").tobytes())
                summary = summary or SoundSummary(rate, channels, peaks_a_second)
                summary.add(whole.astype(np.float32) / FULL)
    if summary is None:
        raise InputError("the sound of the video cannot be decoded")
    size = out.tell() - begins
    out.seek(0)
    out.write(wav.head(rate, channels, size))
    return summary


def form_for(rate: int, seconds: float) -> tuple[int, int]:
    """(samples a second, channels) with which a sound of this rate and length has MOST bytes at most."""
    channels = 2 if seconds * rate * BYTES * 2 <= MOST else 1
    while seconds * rate * BYTES * channels > MOST and rate > 8000:
        rate //= 2
    return rate, channels
