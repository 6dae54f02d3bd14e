"""Where joints stand still to the last digit while the body moves: what a suit writes where it lost them."""

import numpy as np
from numpy.typing import NDArray

from dynaface.core.body.rotations import Array
from dynaface.core.body.skeleton import Motion
from dynaface.core.curves.known_runs import runs
from dynaface.core.tidy_body.turns import steps_of

STILL = 2e-4  # degrees in a frame below which a joint does not turn: rounding of a file
ALIVE = 0.2  # share of the frames in which a joint moves that is expected to move
DEAD = 25.0  # degrees a second that a joint goes before it stops dead, or with which it is found again
OTHERS = 0.3  # share of the joints that are expected to move which must do so meanwhile


def frozen(motion: Motion, least: int) -> NDArray[np.bool_]:
    """(frames, joints) where a joint stands still for at least `least` frames though it and others move. A joint that comes to rest softly, and
    sets out softly, only rests.
    """
    out = np.zeros(motion.local.shape[:2], bool)
    if motion.frames < 3:
        return out
    steps = steps_of(motion.local)
    moves = steps > STILL
    alive = moves.mean(axis=0) >= ALIVE
    if not alive.any():
        return out
    busy = moves[:, alive].mean(axis=1) >= OTHERS
    for joint in np.flatnonzero(alive):
        for first, stop in runs(~moves[:, joint] & busy):
            if stop - first >= least and _cut(steps[:, joint], first, stop, DEAD / float(motion.rate)):
                out[first + 1 : stop + 1, joint] = True
    return out


def _cut(steps: Array, first: int, stop: int, quick: float) -> bool:
    """Whether a stillness, steps (n,) from `first` up to `stop`, begins or ends at once: by more than `quick` degrees in a frame."""
    before, after = steps[max(first - 2, 0) : first], steps[stop : stop + 1]
    return bool((len(before) == 2 and before.min() > quick) or (len(after) and after[0] > quick))
