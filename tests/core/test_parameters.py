"""Parameters of steps: described once, checked by their kind."""

import pytest
from hypothesis import given
from hypothesis import strategies as st

from dynaface.core.errors import InputError
from dynaface.core.parameters import MAX_FRAMES, Parameter, complete
from dynaface.core.shapes.regions import REGIONS
from dynaface.core.tidy.stack import STEPS

NUMBER = Parameter("gain", "Gain", "number", 1.0, low=0.0, high=2.0)
CHOICE = Parameter("way", "Way", "choice", "soft", options=("soft", "hard"))
FRAMES = Parameter("frames", "Frames", "frames", [])
REGION = Parameter("amount", "Amount", "per_region", 0.5)
CHANNEL = Parameter("limit", "Limit", "per_channel", 1.0, low=-1.0)
ALL = (NUMBER, CHOICE, FRAMES, REGION, CHANNEL)


@given(st.floats(0, 2))
def test_numbers_within_their_limits_are_taken(value):
    assert NUMBER.checked(value) == value


@pytest.mark.parametrize("value", [-0.1, 2.1, "much", None, float("nan"), {}])
def test_other_numbers_are_refused_by_name(value):
    with pytest.raises(InputError, match="gain is"):
        NUMBER.checked(value)


def test_a_choice_is_one_of_its_words():
    assert CHOICE.checked("hard") == "hard"
    with pytest.raises(InputError, match="soft, hard"):
        CHOICE.checked("rough")


@given(st.lists(st.integers(0, 10**6), max_size=30))
def test_frames_are_sorted_and_each_is_there_once(frames):
    assert FRAMES.checked(frames) == sorted(set(frames))


@pytest.mark.parametrize("value", ["12", 12, [1.5], [True], [-1], [1 << 31], list(range(MAX_FRAMES + 1)), {"a": 1}])
def test_what_is_no_list_of_frames_is_refused(value):
    with pytest.raises(InputError, match="frames"):
        FRAMES.checked(value)


@given(st.dictionaries(st.sampled_from(REGIONS), st.floats(0, 1)))
def test_regions_that_are_not_named_have_the_default(given_regions):
    made = REGION.checked(given_regions)
    assert set(made) == set(REGIONS)
    assert all(made[r] == given_regions.get(r, 0.5) for r in REGIONS)


def test_channels_that_are_not_named_are_left_out():
    assert CHANNEL.checked({"jawOpen": 0.5}) == {"jawOpen": 0.5}


@pytest.mark.parametrize(
    ("parameter", "value", "message"),
    [
        (REGION, {"elbow": 1}, "'elbow', which is no region"),
        (CHANNEL, {"elbow": 1}, "'elbow', which is no channel"),
        (REGION, {"lips": 9}, "amount.lips is 9"),
        (CHANNEL, {"jawOpen": "wide"}, "limit.jawOpen is 'wide'"),
        (REGION, [0.5], "must be a table by name"),
    ],
)
def test_tables_say_which_name_is_wrong(parameter, value, message):
    with pytest.raises(InputError, match=message):
        parameter.checked(value)


def test_what_is_not_given_has_its_default():
    made = complete(ALL, {"gain": 2})
    assert made == {"gain": 2, "way": "soft", "frames": [], "amount": dict.fromkeys(REGIONS, 0.5), "limit": {}}
    assert complete(ALL, made) == made


def test_a_parameter_that_there_is_not_is_refused_with_those_that_there_are():
    with pytest.raises(InputError, match="gain, way, frames, amount, limit"):
        complete(ALL, {"gian": 2})


@pytest.mark.parametrize("step", STEPS.values(), ids=lambda s: s.name)
def test_the_parameters_of_every_step_take_their_own_defaults(step):
    made = complete(step.parameters, {})
    assert complete(step.parameters, made) == made
    for parameter in step.parameters:
        described = parameter.describe()
        assert described["name"] == parameter.name
        assert described["label"]
        assert described["low"] <= described["high"]
