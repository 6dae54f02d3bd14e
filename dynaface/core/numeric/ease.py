"""The smooth way from none to all that fades, leads and ramps go."""

from typing import Any

import numpy as np
from numpy.typing import NDArray


def eased(part: NDArray[Any]) -> NDArray[Any]:
    """Parts of a way (...,), held within 0..1, with level ends: Hermite's smooth step."""
    held = np.clip(part, 0, 1)
    return np.asarray(held * held * (3 - 2 * held))
