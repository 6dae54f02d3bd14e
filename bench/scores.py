"""How well a curve agrees with the truth: shared by the benches that solve."""

import numpy as np

from dynaface.core.solve.confidence import COLUMNS, RIGHT

BINS = 10  # of the reliability diagram


def agreement_of(solved: np.ndarray, truth: np.ndarray) -> tuple[float, float]:
    """(Pearson r, mean absolute error after the best gain and offset) of one curve (frames,); r is 0 for one that does not move."""
    x, t = solved.astype(float), truth.astype(float)
    if x.std() <= 1e-6:
        return 0.0, float(np.abs(t - t.mean()).mean())
    fitted = np.polyval(np.polyfit(x, t, 1), x)
    return float(np.corrcoef(x, t)[0, 1]), float(np.abs(fitted - t).mean())


def regions_right(values: np.ndarray, truth: np.ndarray) -> dict[str, np.ndarray]:
    """region -> (frames,) True where the weights (frames, 52) of the region are right."""
    off = values[:, :52].astype(float) - truth[:, :52]
    return {region: np.sqrt((off[:, own] ** 2).mean(axis=1)) < RIGHT for region, own in COLUMNS.items()}


def _tenths(said: np.ndarray) -> list[np.ndarray]:
    """Which of chances (n,) lie in each tenth, from the lowest, of those in which any do."""
    at = np.minimum((said * BINS).astype(int), BINS - 1)
    return [at == b for b in np.unique(at)]


def calibration_error(said: np.ndarray, right: np.ndarray) -> float:
    """Expected calibration error of chances (n,) of being right, and what was right (n,): mean over tenths, weighted by their counts."""
    return sum(abs(float(said[own].mean() - right[own].mean())) * float(own.mean()) for own in _tenths(said))


def tell_reliability(title: str, said: dict[str, np.ndarray], right: dict[str, np.ndarray]) -> None:
    """Prints how well chances hold: what was said and what was right by tenths, and the error by region."""
    every, hit = np.concatenate([said[r] for r in said]), np.concatenate([right[r] for r in said])
    diagram = ", ".join(f"{every[own].mean():.2f} {hit[own].mean():.2f} ({own.sum()})" for own in _tenths(every))
    print(
        f"confidence {title}: expected calibration error {calibration_error(every, hit):.3f}; said, right (of): {diagram}"
    )
    print(
        "  by region, said/right (error):",
        ", ".join(
            f"{r} {said[r].mean():.2f}/{right[r].mean():.2f} ({calibration_error(said[r], right[r]):.3f})" for r in said
        ),
    )
