"""The sound of a clip as a WAV, decoded and written piece by piece."""

from typing import Any, BinaryIO

import av
import numpy as np

from dynaface.core.curves.channels import Floats
from dynaface.core.sound.summary import PeaksInPieces, SoundSummary
from dynaface.formats.entries import wav
from dynaface.formats.entries.video import heard_in, sound_stream
from dynaface.formats.stored import Stored

MOST = 400_000_000  # bytes of samples; a longer sound comes in one channel, then at half its rate, and so on
BYTES = 2  # of a sample
FULL = 32768.0


def write_clip_sound(
    stored: Stored, seconds: float, out: BinaryIO, peaks_a_second: int
) -> tuple[dict[str, Any], Floats]:
    """Writes the sound of a clip of so many seconds as 16 bit PCM and gives (what is said of it, its peaks (buckets, 2)); raises
    InputError where it has none, or none that can be decoded.
    """
    with stored.file() as file, av.open(file) as container:
        rate, channels = form_for(sound_stream(container).rate or 48000, seconds)
        resampler = av.AudioResampler(format="s16", layout="mono" if channels == 1 else "stereo", rate=rate)
        summary, peaks = SoundSummary(rate, channels), PeaksInPieces(rate, channels, peaks_a_second)
        begins = out.write(wav.head(rate, channels, 0))
        for whole in heard_in(container, resampler, channels):
            out.write(whole.astype("<i2").tobytes())
            piece = whole.astype(np.float32) / FULL
            summary.add(piece)
            peaks.add(piece)
    size = out.tell() - begins
    out.seek(0)
    out.write(wav.head(rate, channels, size))
    return summary.findings(), peaks.all()


def form_for(rate: int, seconds: float) -> tuple[int, int]:
    """(samples a second, channels) with which a sound of this rate and length has MOST bytes at most."""
    channels = 2 if seconds * rate * BYTES * 2 <= MOST else 1
    while seconds * rate * BYTES * channels > MOST and rate > 8000:
        rate //= 2
    return rate, channels
