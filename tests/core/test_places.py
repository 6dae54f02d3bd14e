"""Where a step acts."""

import numpy as np
import pytest

from dynaface.core.errors import InputError
from dynaface.core.tidy.place import mixed, parse_coverage
from dynaface.core.tidy.stack import describe_stack, evaluate, parse_stack, placed, run_step
from tests.makers import NAMES, channels


def reach(**given):
    return parse_coverage(given)


def test_a_place_is_whole_inside_soft_at_its_edges_and_nothing_beyond():
    w = reach(places=[{"channels": ["jawOpen"], "first": 50, "last": 60}], ramp=9).weights(NAMES, 120)
    jaw = w[:, NAMES.index("jawOpen")]
    assert (jaw[50:61] == 1).all()
    assert (np.diff(jaw[40:51]) >= 0).all()
    assert 0 < jaw[45] < 1
    assert jaw[:40].max() == 0
    assert jaw[71:].max() == 0
    assert np.delete(w, NAMES.index("jawOpen"), axis=1).max() == 0


def test_without_a_ramp_the_edge_is_hard():
    w = reach(places=[{"first": 5, "last": 7}]).weights(("jawOpen",), 12)[:, 0]
    np.testing.assert_array_equal(w, [0] * 5 + [1] * 3 + [0] * 4)


def test_a_region_stands_for_its_channels_and_an_open_end_for_the_take():
    w = reach(places=[{"regions": ["lids"], "last": 9}]).weights(NAMES, 20)
    lids = [NAMES.index(n) for n in ("eyeBlinkLeft", "eyeBlinkRight")]
    assert (w[:10, lids] == 1).all()
    assert w[10:].max() == 0
    assert w[:, NAMES.index("headTurn")].max() == 0


def test_windows_hold_all_places_with_air_and_do_not_overlap():
    given = reach(places=[{"first": 10, "last": 12}, {"first": 18, "last": 20}, {"first": 80, "last": 300}], ramp=1)
    assert given.windows(100, 4) == [(5, 26), (75, 100)]


def test_what_was_filled_stays_filled_where_there_is_nothing_to_mix():
    before = np.array([[np.nan], [np.nan], [0.2]], np.float32)
    after = np.array([[0.5], [0.6], [0.4]], np.float32)
    made = mixed(before, after, np.array([[0.0], [0.5], [0.5]], np.float32))[:, 0]
    assert np.isnan(made[0])
    assert made[1:].tolist() == pytest.approx([0.6, 0.3])


@pytest.mark.parametrize(
    ("given", "says"),
    [
        ({"places": "all"}, "list"), ({"places": [{"channels": ["elbow"]}]}, "elbow"), ({"places": [{"regions": ["knee"]}]}, "knee"),
        ({"places": [{"first": 9, "last": 3}]}, "before it begins"), ({"places": [{"first": 1.5}]}, "1.5"),
        ({"places": [{"where": 1}]}, "may hold"), ({"mix": 2}, "mix is 2"), ({"ramp": -1}, "ramp is -1"),
        ({"places": [{}] * 401}, "at most 400"),
    ],
)  # fmt: skip
def test_a_place_that_is_none_is_refused_with_what_is_wrong(given, says):
    with pytest.raises(InputError, match=says):
        parse_coverage(given)


def test_places_come_back_from_a_stack_s_description():
    steps = [
        {"step": "blend to neutral", "places": [{"regions": ["jaw"], "first": 3, "last": 8}], "ramp": 2.0, "mix": 0.5}
    ]
    made = parse_stack({"dynafaceStack": 1, "steps": steps})
    assert parse_stack(describe_stack(made)) == made
    assert made[0].where.places[0].channels == ("jawOpen", "jawForward", "jawLeft", "jawRight")


def test_a_retiming_step_has_no_places():
    with pytest.raises(InputError, match="whole take"):
        placed("even out time", {"places": [{"first": 3}]})


def test_order_matters_and_each_step_sees_what_the_one_before_left():
    given = channels()
    gain, limit = {"step": "strength", "gain": {"jawOpen": 3.0}}, {"step": "limit range", "high": 0.6}
    one = evaluate(given, parse_stack({"dynafaceStack": 1, "steps": [gain, limit]}))
    other = evaluate(given, parse_stack({"dynafaceStack": 1, "steps": [limit, gain]}))
    assert one.column("jawOpen").max() == pytest.approx(0.6)
    assert other.column("jawOpen").max() == pytest.approx(1.8)


def test_many_places_give_what_each_place_alone_would():
    given = channels(900)
    rng = np.random.default_rng(4)
    given.values[:] += rng.normal(0, 0.02, given.values.shape)
    places = [
        {"channels": ["jawOpen"], "first": 100, "last": 130},
        {"channels": ["headNod"], "first": 600, "last": 640},
    ]
    together = run_step(given, placed("smooth", {"method": "low-pass", "places": places})).values
    for place in places:
        alone = run_step(given, placed("smooth", {"method": "low-pass", "places": [place]})).values
        column = NAMES.index(place["channels"][0])
        np.testing.assert_allclose(together[:, column], alone[:, column], atol=1e-4)
