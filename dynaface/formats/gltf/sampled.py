"""Values of a glTF animation sampler at moments."""

import numpy as np

ROUNDED = 1e-4  # seconds by which a file's times of single precision may be late


def sampled(times: np.ndarray, values: np.ndarray, way: str, at: np.ndarray) -> np.ndarray:
    """Values (moments, ...) at moments (n,): held before the first and after the last, between them as the file says.

    values: (keys, ...), for "CUBICSPLINE" (keys, 3, ...) with tangents before and after.
    """
    if way == "STEP" or len(times) < 2:
        kept = values[:, 1] if way == "CUBICSPLINE" else values
        return np.asarray(kept[np.clip(np.searchsorted(times, at + ROUNDED, side="right") - 1, 0, len(times) - 1)])
    low = np.clip(np.searchsorted(times, at, side="right") - 1, 0, len(times) - 2)
    span = np.maximum(times[low + 1] - times[low], 1e-9)
    s = np.clip((at - times[low]) / span, 0, 1)
    cubic = way == "CUBICSPLINE"
    before, after = values[low], values[low + 1]
    wide = (slice(None), *(None for _ in range(values.ndim - (2 if cubic else 1))))
    s, span = s[wide], span[wide]
    if not cubic:
        return np.asarray(before * (1 - s) + after * s)
    return np.asarray(
        (2 * s**3 - 3 * s**2 + 1) * before[:, 1] + span * (s**3 - 2 * s**2 + s) * before[:, 2]
        + (3 * s**2 - 2 * s**3) * after[:, 1] + span * (s**3 - s**2) * after[:, 0]
    )  # fmt: skip
