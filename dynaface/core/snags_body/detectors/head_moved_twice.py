"""Head moved twice: the character's head turns farther than the performer's did, in step with it: body and face both turn it."""

import numpy as np
from scipy.ndimage import uniform_filter1d

from dynaface.core.body.rotations import Array, headings, inverse, multiply
from dynaface.core.snags.snag import Snag, merged, severity
from dynaface.core.snags_body.evidence import BodyDetector, BodyEvidence, setting

WINDOW, SHORTEST = 2.0, 0.6  # seconds
ALIKE, TIMES, LEAST, WORST = 0.85, 1.3, 4.0, 2.2  # correlation, how many times as far, degrees of the performer's turn


def yaws(turns: Array) -> Array:
    """(frames,) degrees about up, without jumps from one side to the other."""
    return np.degrees(np.unwrap(headings(turns)))


def find(evidence: BodyEvidence) -> list[Snag]:
    """One snag a stretch: compared is the turn of the head in the world as shown with that of the body take."""
    shown = evidence.shown
    if (
        shown is None
        or not shown.chain
        or evidence.settings.filmed != "chest"
        or not evidence.settings.head_weight.value
    ):
        return []
    own, made = _head_of_body(evidence), yaws(shown.turns[:, shown.chain[-1]])
    if own is None or len(own) != len(made) or len(made) < 8:
        return []
    size = min(max(round(WINDOW * evidence.rate), 4), len(made))

    def mean(values: Array) -> Array:
        return uniform_filter1d(values, size, mode="nearest")

    a, b = own - mean(own), made - mean(made)
    both, spread, wide = mean(a * b), mean(a * a), mean(b * b)
    alike, times = both / np.sqrt(np.maximum(spread * wide, 1e-9)), both / np.maximum(spread, 1e-9)
    flags = (alike > ALIKE) & (times > TIMES) & (np.sqrt(spread) > LEAST / 2)
    out: list[Snag] = []
    for first, last in merged(flags, round(0.3 * evidence.rate), max(round(SHORTEST * evidence.rate), 1)):
        far = float(times[first : last + 1].max())
        names = tuple(shown.skeleton.names[j] for j in shown.chain)
        out.append(Snag(
            "head moved twice", "head", names, first, last, severity(far, TIMES, WORST), far, TIMES, "×",
            f"The head turns {far:.1f} times as far as the performer's: the camera of the face take saw the body turn, too.",
            (setting("filmed", "fixed"),),
        ))  # fmt: skip
    return out


def _head_of_body(evidence: BodyEvidence) -> Array | None:
    """(frames,) degrees about up of the head of the body take, at the take's frames."""
    heads = [j for j, g in enumerate(evidence.groups) if g == "head"]
    if not heads:
        return None
    skeleton = evidence.body.skeleton
    head = heads[-1]
    turns = multiply(evidence.posed[0][:, head], inverse(skeleton.global_rest()[0][head]))
    at = evidence.begins + np.arange(evidence.frames) / evidence.rate
    return np.interp(at, np.arange(evidence.body.frames) / float(evidence.body.rate), yaws(turns))


DETECTOR = BodyDetector("head moved twice", "Head moved twice", "Body and face both turn the head.", find)
