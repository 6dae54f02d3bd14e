"""How far the lips are apart, and how far the mouth does what is heard."""

from collections.abc import Mapping

import numpy as np
from numpy.typing import NDArray

from dynaface.core.curves.channels import Channels

# Shares of a wide open jaw (33 mm) by which each shape parts the general head's lips; those under 0.04 are left out. A lip that is drawn
# to one side parts them there: between the middle (0.07) and where it is widest (0.15).
MEASURED = {
    "jawOpen": 1.0, "mouthClose": -1.0, "mouthFunnel": 0.36, "mouthShrugUpper": 0.12, "mouthShrugLower": -0.14,
    "mouthRollUpper": -0.08, "mouthRollLower": -0.09, "mouthUpperUpLeft": 0.12, "mouthUpperUpRight": 0.12,
    "mouthLowerDownLeft": 0.12, "mouthLowerDownRight": 0.12, "mouthSmileLeft": -0.04, "mouthSmileRight": -0.04,
    "jawForward": 0.04,
}  # fmt: skip
PRESSED = -0.3  # lips that are pressed meet, though on a head at rest there is hardly anything to close
PARTS = MEASURED | {"mouthPressLeft": PRESSED, "mouthPressRight": PRESSED}

# What the lips do beside the jaw tells a vowel from a consonant between the teeth: it counts for more than it parts them.
HEARD = {
    "jawOpen": 1.0, "mouthClose": -1.0, "mouthFunnel": 0.3, "mouthPressLeft": -0.3, "mouthPressRight": -0.3,
    "mouthUpperUpLeft": 0.25, "mouthUpperUpRight": 0.25, "mouthLowerDownLeft": 0.25, "mouthLowerDownRight": 0.25,
}  # fmt: skip


def opening(channels: Channels) -> NDArray[np.float64]:
    """(frames,) how far the lips are apart: 1 as with the jaw wide open, 0 and less where they meet; gaps as 0."""
    return _sum(channels, PARTS)


def spoken(channels: Channels) -> NDArray[np.float64]:
    """(frames,) how far the mouth does what is heard, gaps as 0."""
    return _sum(channels, HEARD)


def _sum(channels: Channels, shares: Mapping[str, float]) -> NDArray[np.float64]:
    return np.nan_to_num(sum(share * channels.column(shape).astype(np.float64) for shape, share in shares.items()))
