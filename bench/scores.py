"""How well a curve agrees with the truth: shared by the benches that solve."""

import numpy as np


def agreement_of(solved: np.ndarray, truth: np.ndarray) -> tuple[float, float]:
    """(Pearson r, mean absolute error after the best gain and offset) of one curve (frames,); r is 0 for one that does not move."""
    x, t = solved.astype(float), truth.astype(float)
    if x.std() <= 1e-6:
        return 0.0, float(np.abs(t - t.mean()).mean())
    fitted = np.polyval(np.polyfit(x, t, 1), x)
    return float(np.corrcoef(x, t)[0, 1]), float(np.abs(fitted - t).mean())
