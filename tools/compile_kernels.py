"""Compiles what is compiled when it is first used, so that no test waits for it: `./dev test` runs it beside the linters.

The results lie in numba's cache beside the sources.
"""

import numpy as np

from dynaface.core.numeric.bounded import solve_bounded
from dynaface.core.numeric.sequence import solve_sequence
from dynaface.pipelines.warm_up import warm_up

SHAPES = 52


def compile_kernels() -> None:
    """Calls each once, with arrays of the kinds that the product gives them."""
    warm_up()
    a = np.eye(SHAPES)
    b, low, high = np.full(SHAPES, 0.5), np.zeros(SHAPES), np.ones(SHAPES)
    solve_bounded(a, b, np.zeros(SHAPES), low, high)
    frames = 4
    solve_sequence(np.tile(a, (frames, 1, 1)), np.tile(b, (frames, 1)), np.zeros((frames, SHAPES)), np.ones(SHAPES))


if __name__ == "__main__":
    compile_kernels()
