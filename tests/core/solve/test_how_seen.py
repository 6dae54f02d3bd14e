"""How far a half of the face is seen, from the likeness of its points."""

import numpy as np
import pytest

from dynaface.core.solve.clip import FEWEST, SURE, how_seen

EVEN = np.full(100, 0.8)


def covered(share, alike=0.1):
    """Likeness of 100 points of which a share lies behind a hand."""
    out = np.full(100, 0.93)
    out[: round(100 * share)] = alike
    return out


def test_a_face_that_moves_is_seen_and_one_behind_a_hand_is_not():
    assert how_seen(covered(0.0), EVEN) == 1
    assert how_seen(covered(0.08), EVEN) > SURE
    assert how_seen(covered(0.5), EVEN) == 0


def test_the_more_is_covered_the_less_is_seen():
    seen = [how_seen(covered(s), EVEN) for s in np.linspace(0, 1, 11)]
    assert (np.diff(seen) <= 0).all()


def test_a_point_that_is_noisy_on_a_still_face_says_little():
    noise = EVEN.copy()
    noise[:30] = 8.0
    assert how_seen(covered(0.3), EVEN) < SURE
    assert how_seen(covered(0.3), noise) > 0.9


def test_very_like_points_do_not_make_up_for_covered_ones():
    exact = covered(0.25)
    exact[25:] = 1.0
    assert how_seen(exact, EVEN) == pytest.approx(how_seen(covered(0.25), EVEN))


def test_of_a_few_points_nothing_is_said():
    assert how_seen(np.ones(FEWEST - 1), np.ones(FEWEST - 1)) == 0
