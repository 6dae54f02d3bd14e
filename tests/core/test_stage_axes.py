"""A take in another unit or of other handedness than the layout's take is refused, whatever the head does in it."""

from dataclasses import replace

import numpy as np
import pytest

from dynaface.core.errors import InputError
from dynaface.core.markers.chart import MARKS
from dynaface.core.markers.layout import Layout, neutral_points
from dynaface.core.markers.stage_axes import FEWEST, is_mirrored, refuse_other_axes
from dynaface.pipelines.solve_markers import basis_of, general_chart, solve_with
from tests.core.test_markers import performed, shot  # noqa: F401

MIRRORED = np.array([-1.0, 1, 1])


@pytest.fixture(scope="module")
def taken(performed):  # noqa: F811
    """(take, its still face) with gaps, swapped names and a head that moves."""
    take, _ = shot(performed, gaps=0.05, swaps=3)
    return take, neutral_points(take, (0, 30))


def test_the_same_stage_is_taken(taken):
    take, rest = taken
    refuse_other_axes(take.points, rest)


@pytest.mark.parametrize("factor", [0.001, 0.1, 10, 1000])
def test_another_unit_is_refused(taken, factor):
    take, rest = taken
    with pytest.raises(InputError, match=f" are {factor:g} times as far apart") as refused:
        refuse_other_axes(take.points * factor, rest)
    assert "unit" in refused.value.hint


def test_a_mirror_image_is_refused_whichever_way_it_is_turned(taken):
    take, rest = taken
    turn = np.linalg.qr(np.random.default_rng(4).normal(size=(3, 3)))[0]
    turn *= np.sign(np.linalg.det(turn))
    refuse_other_axes(take.points @ turn, rest)
    for axes in (MIRRORED, -np.ones(3)):
        with pytest.raises(InputError, match="mirror image"):
            refuse_other_axes((take.points * axes) @ turn, rest)


def test_nothing_is_said_of_too_few_markers(taken):
    take, rest = taken
    few = rest[: FEWEST - 1]
    assert not is_mirrored(few * MIRRORED, few)
    refuse_other_axes(take.points[:, : FEWEST - 1] * 1000, few)
    refuse_other_axes(np.full_like(take.points, np.nan), rest)


def test_a_take_is_not_solved_with_a_layout_of_another_unit(performed):  # noqa: F811
    take, _ = shot(performed)
    layout = Layout({n: n for n in MARKS}, (0, 30))
    basis, neutral = basis_of(take, layout)
    with pytest.raises(InputError, match="times as far apart"):
        solve_with(replace(take, points=take.points / 1000), basis, layout, take, neutral)
    assert not is_mirrored(
        basis.neutral, general_chart().points[[general_chart().names.index(n) for n in basis.labels]]
    )
