"""Sound as it comes from a sound input: whole numbers of 16 bit."""

import numpy as np

from dynaface.core.curves.channels import Floats

BYTES = 2  # of a sample


def from_pcm16(data: bytes, channels: int = 1) -> Floats:
    """(samples, channels) in -1..1 of little-endian samples, channel by channel; what was cut off is left out."""
    whole = len(data) // (BYTES * channels) * BYTES * channels
    return np.frombuffer(data[:whole], "<i2").reshape(-1, channels).astype(np.float32) / np.float32(32768)
