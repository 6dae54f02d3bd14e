"""Speed of the core, as ratios against the obvious library call in the same run: `python -m bench.core`."""

import io
import time
from collections.abc import Callable
from fractions import Fraction

import numpy as np
from scipy.interpolate import PchipInterpolator
from scipy.signal import savgol_filter

from dynaface.core.curves.channels import Channels, Recording
from dynaface.core.shapes.standard import SHAPES
from dynaface.core.tidy.stack import evaluate, parse_stack
from dynaface.formats.entries.curve_table import read_table, write_table

FRAMES = 36_000


def median_ms(work: Callable[[], object], rounds: int = 7) -> float:
    """The median of several runs in ms, after one that is not counted."""
    work()
    taken = []
    for _ in range(rounds):
        began = time.perf_counter()
        work()
        taken.append((time.perf_counter() - began) * 1000)
    return float(np.median(taken))


def main() -> None:
    """Prints table import and tidying."""
    rng = np.random.default_rng(5)
    times = np.sort(np.arange(FRAMES) / 60 + rng.normal(0, 0.002, FRAMES))
    values = np.clip(0.5 + np.cumsum(rng.normal(0, 0.01, (FRAMES, 52)), axis=0) % 1 * 0.4, 0, 1).astype(np.float32)
    recording = Recording(SHAPES, times, values, Fraction(60))
    for method in ("one-euro", "savitzky-golay"):
        steps = [
            {"step": "even out time"},
            {"step": "smooth", "method": method},
            {"step": "strength", "region": {"lips": 0.8}},
        ]
        stack = parse_stack({"dynafaceStack": 1, "steps": steps})
        ours = median_ms(lambda stack=stack: evaluate(recording, stack))
        even = np.arange(FRAMES) / 60

        def library(even: np.ndarray = even) -> np.ndarray:
            at = PchipInterpolator(times + np.arange(FRAMES) * 1e-9, values, axis=0)(np.clip(even, times[0], times[-1]))
            return savgol_filter(at, 25, 3, axis=0) * 0.8

        theirs = median_ms(library, 3)
        print(
            f"tidy 52 x {FRAMES} ({method}): {ours:.0f} ms for the three steps; SciPy's calls for the same {theirs:.0f} ms: ratio {ours / theirs:.2f}"
        )
    rows = 6000
    raw = write_table(Channels(SHAPES, values[:rows], Fraction(60)))
    ours = median_ms(lambda: read_table(raw), 3)
    text = "\n".join(",".join(line.split(",")[3:]) for line in raw.decode().splitlines()[1:])
    theirs = median_ms(lambda: np.loadtxt(io.StringIO(text), delimiter=","), 3)
    print(
        f"table import: {rows / ours * 1000:,.0f} rows/s (55 columns, {len(raw) / ours / 1000:.0f} MB/s); numpy.loadtxt of the bare numbers: ratio {ours / theirs:.2f}"
    )


if __name__ == "__main__":
    main()
