"""What was handed over, edited and brought back: what is found to be different, whatever another program has made of the rest."""

from dataclasses import replace
from fractions import Fraction

import numpy as np
import pytest

from dynaface.core.body.rotations import about, multiply, rotate
from dynaface.core.errors import InputError
from dynaface.core.handover.asked import asked
from dynaface.core.returns.compare import differences
from dynaface.core.returns.put_right import put_right
from dynaface.formats.catalogue import HANDOVERS
from dynaface.formats.returned import read_returned, returning_form

FORMS = {"gltf": ".glb", "usd": ".usdc", "bvh": ".bvh", "curve table": ".csv"}
RATE = Fraction(60)


def quiet(part, message):
    """Says nothing."""


def written(delivery, form, **settings):
    files = HANDOVERS[form].write(delivery, HANDOVERS[form].complete(settings), quiet)
    return next(data for name, data in files.items() if name.endswith(FORMS[form]))


def brought(data, form):
    (only,) = read_returned(data, f"file{FORMS[form]}", RATE).values()
    return only


def bump(frames, first=12, last=20):
    """(frames,) 0 but between two frames, where it rises to 1 and falls again."""
    at = np.arange(frames)
    return np.where((at >= first) & (at <= last), np.sin(np.pi * (at - first + 1) / (last - first + 2)), 0.0)


def edited(delivery, first=12, last=20):
    """The delivery with the jaw wider, an arm turned by 20 degrees and the hips 80 mm aside for a moment."""
    made = delivery.first.performance
    by = bump(made.channels.frames, first, last)
    weights, local, values = made.cast.weights.copy(), made.local.astype(np.float64), made.channels.values.copy()
    weights[:, made.cast.targets.index("jawOpen")] += 0.3 * by
    values[:, made.channels.names.index("jawOpen")] += 0.3 * by
    joint = made.joints.index("head")
    local[:, joint] = multiply(local[:, joint], about("x", 20.0 * by))
    root = made.root + np.stack([0.08 * by, 0 * by, 0 * by], axis=1)
    made = replace(made, cast=replace(made.cast, weights=weights), local=local.astype(np.float32), root=root.astype(np.float32),
                   channels=replace(made.channels, values=values))  # fmt: skip
    return replace(delivery, figures=(replace(delivery.first, performance=made),))


KEPT = {}


def pair(delivered, form="gltf"):
    """(Odile as handed over, the same edited), as the form reads them; made once."""
    if form not in KEPT:
        KEPT[form] = tuple(brought(written(d, form), form) for d in (delivered("odile"), edited(delivered("odile"))))
    return KEPT[form]


def found(righted, **more):
    return {(d.part, d.of): d for d in differences(righted, **more)}


CHANGED = {
    "gltf": {("weight", "jawOpen"), ("turn", "head"), ("place", "hips")},
    "usd": {("weight", "jawOpen"), ("turn", "head"), ("place", "hips")},
    "bvh": {("turn", "head"), ("place", "hips")},
    "curve table": {("channel", "jawOpen")},
}


@pytest.mark.parametrize("form", FORMS)
@pytest.mark.parametrize("name", ["odile", "brindle", "kettle"])
def test_unchanged_it_is_no_difference(form, name, delivered):
    data = written(delivered(name), form)
    righted = put_right(brought(data, form), brought(data, form))
    assert differences(righted) == []
    assert righted.said == righted.unknown == righted.absent == ()


@pytest.mark.parametrize("form", FORMS)
def test_what_was_changed_is_found_where_it_was_changed(form, delivered):
    base, other = pair(delivered, form)
    changed = found(put_right(other, base))
    assert set(changed) == CHANGED[form]
    for one in changed.values():
        assert one.runs == ((12, 20),)
    sizes = {"weight": 0.3, "channel": 0.3, "turn": 20.0, "place": 0.08}
    for (part, _), one in changed.items():
        assert one.most == pytest.approx(sizes[part], rel=0.02)


@pytest.mark.parametrize("form", ["gltf", "usd", "bvh"])
def test_a_prefix_is_taken_off_and_said(form, delivered):
    base, _ = pair(delivered, form)
    other = brought(written(edited(delivered("odile", prefix="rig_")), form), form)
    righted = put_right(other, base)
    assert set(found(righted)) == CHANGED[form]
    assert any("'rig_' taken off" in s for s in righted.said)
    back = put_right(base, other)
    assert set(found(back)) == {(p, f"rig_{n}") for p, n in CHANGED[form]}
    assert any("'rig_' put back" in s for s in back.said)


def renamed(one, how):
    return one.renamed({n: how(n) for n in one.names})


@pytest.mark.parametrize(
    ("how", "said"),
    [
        (lambda n: f"show:{n}", "namespaces taken off"),
        (lambda n: f"show|rig:{n}", "namespaces taken off"),
        (lambda n: n.upper(), "written otherwise"),
        (lambda n: f"{n}.001", "written otherwise"),
    ],
)
def test_names_that_other_programs_write_are_recognised(how, said, delivered):
    base, _ = pair(delivered)
    _, other = pair(delivered)
    righted = put_right(renamed(other, how), base)
    assert set(found(righted)) == CHANGED["gltf"]
    assert any(said in s for s in righted.said)


def test_a_file_of_something_else_is_refused(delivered):
    base, _ = pair(delivered)
    with pytest.raises(InputError, match="no name in this file"):
        put_right(renamed(base, lambda n: f"{hash(n)}"), base)


@pytest.mark.parametrize("form", FORMS)
@pytest.mark.parametrize("rate", ["30", "120", "24"])
def test_at_another_rate_the_same_is_the_same(form, rate, delivered):
    base, _ = pair(delivered, form)
    other = base.at(np.arange(0, base.frames - 1 + 1e-6, float(RATE / Fraction(rate))))
    righted = put_right(replace(other, rate=Fraction(rate)), base)
    assert differences(righted) == []
    assert any(f"{rate} frames a second instead of 60" in s for s in righted.said)


def test_at_another_rate_what_is_different_is_found(delivered):
    base, other = pair(delivered)
    other = other.at(np.arange(0, 40, 0.5)[:-1])
    changed = found(put_right(replace(other, rate=Fraction(120)), base))
    assert set(changed) == CHANGED["gltf"]
    assert changed[("weight", "jawOpen")].runs == ((23, 41),)


def test_as_many_frames_at_another_rate_are_taken_frame_by_frame(delivered):
    base, other = pair(delivered)
    righted = put_right(replace(other, rate=Fraction(24)), base)
    assert found(righted)[("turn", "head")].runs == ((12, 20),)
    assert any("taken frame by frame" in s for s in righted.said)


@pytest.mark.parametrize("form", ["gltf", "usd"])
def test_a_rest_frame_that_was_put_before_it_is_taken_off(form, delivered):
    base, _ = pair(delivered, form)
    rest = asked(edited(delivered("odile")).first.performance, delivered("odile").first.skeleton, replace(delivered("odile").options, rest=True))  # fmt: skip
    delivery = delivered("odile")
    delivery = replace(delivery, figures=(replace(delivery.first, performance=rest),))
    righted = put_right(brought(written(delivery, form), form), base)
    assert set(found(righted)) == CHANGED[form]
    assert found(righted)[("turn", "head")].runs == ((13, 21),)
    np.testing.assert_allclose(righted.at, np.arange(41) - 1)
    assert any("rest pose" in s for s in righted.said)


def test_a_rest_frame_of_our_own_is_no_part_of_the_work(delivered):
    base = brought(written(delivered("odile", rest=True), "gltf"), "gltf")
    other = replace(base, curves={**base.curves, "jawOpen": base.curves["jawOpen"] + (np.arange(41) == 0)})
    assert found(put_right(other, base), apart_from=[0]) == {}
    assert set(found(put_right(other, base))) == {("weight", "jawOpen")}


@pytest.mark.parametrize("by", [-7, 9])
def test_frames_that_were_cut_or_put_before_are_noticed(by, delivered):
    base, other = pair(delivered)
    shifted = other.at(np.clip(np.arange(max(by, 0) * -1.0 if by > 0 else -by, 40), 0, 39))
    righted = put_right(shifted, base)
    assert set(found(righted)) == CHANGED["gltf"]
    assert righted.at[found(righted)[("turn", "head")].runs[0][0]] == pytest.approx(12)


@pytest.mark.parametrize("scale", [0.01, 100, 1000, 1 / 0.0254, 1.7])
def test_another_unit_is_put_right(scale, delivered):
    base, other = pair(delivered)
    righted = put_right(replace(other, places={n: p * scale for n, p in other.places.items()}), base)
    changed = found(righted)
    assert set(changed) == CHANGED["gltf"]
    assert changed[("place", "hips")].most == pytest.approx(0.08, rel=0.03)
    assert any("lengths are in" in s or "times as large" in s for s in righted.said)


def test_weights_in_percent_are_put_right(delivered):
    base, other = pair(delivered)
    righted = put_right(replace(other, curves={n: v * 100 for n, v in other.curves.items()}), base)
    assert set(found(righted)) == CHANGED["gltf"]
    assert any("percent" in s for s in righted.said)


@pytest.mark.parametrize(("form", "settings"), [("bvh", {"up": "z"}), ("bvh", {"up": "z", "units": "metres"}), ("usd", {"up": "z", "units": "centimetres"})])  # fmt: skip
def test_another_axis_that_points_up_is_put_right(form, settings, delivered):
    base, _ = pair(delivered, form)
    righted = put_right(brought(written(edited(delivered("odile")), form, **settings), form), base)
    assert set(found(righted)) == CHANGED[form]
    assert found(righted)[("place", "hips")].most == pytest.approx(0.08, rel=0.03)


def test_a_character_that_lies_in_a_scene_is_stood_up(delivered):
    base, other = pair(delivered)
    lying = about("x", -90.0)
    (top,) = other.tops
    turns = {**other.turns, top: multiply(lying, other.turns[top])}
    righted = put_right(replace(other, turns=turns), base)
    assert set(found(righted)) == CHANGED["gltf"]
    assert any("stood up again" in s for s in righted.said)


def test_joints_put_above_and_between_are_passed_over(delivered):
    base, other = pair(delivered)
    parent = other.above["head"]
    tilt = about("z", 15.0)
    turns = {
        **other.turns,
        "extra": np.tile(tilt, (40, 1)),
        "head": multiply(tilt * [-1, -1, -1, 1], other.turns["head"]),
    }
    places = {**other.places, "extra": other.places["head"], "head": np.zeros((40, 3))}
    righted = put_right(replace(other, turns=turns, places=places, above={**other.above, "head": "extra", "extra": parent}), base)  # fmt: skip
    assert set(found(righted)) == CHANGED["gltf"]
    assert righted.unknown == ("extra",)


def test_what_did_not_come_back_is_left_as_it_is(delivered):
    base, other = pair(delivered)
    few = other.only(["jawOpen", "hips", "head"])
    righted = put_right(few, base)
    assert set(found(righted)) == CHANGED["gltf"]
    assert "eyeBlinkLeft" in righted.absent


def test_a_body_that_comes_back_with_the_worlds_axes_is_compared_with_them(delivered):
    base, _ = pair(delivered)
    _, other = pair(delivered, "bvh")
    leant = {n: multiply(about("z", 30.0), q) if n == "head" else q for n, q in base.rest.items()}
    # The same motion of a skeleton whose head rests leaning.
    turns = {**base.turns, "head": multiply(base.turns["head"], about("z", 30.0))}
    below = {n: multiply(about("z", -30.0), base.turns[n]) for n, above in base.above.items() if above == "head"}
    rests = {n: multiply(about("z", -30.0), leant[n]) for n in below}
    places = {n: rotate(np.broadcast_to(about("z", -30.0), (40, 4)), base.places[n]) for n in below}
    leaning = replace(base, turns={**turns, **below}, places={**base.places, **places},
                      rest={**leant, "head": multiply(base.rest["head"], about("z", 30.0)), **rests})  # fmt: skip
    righted = put_right(other, leaning)
    assert set(found(righted)) == CHANGED["bvh"]
    assert righted.base.world


def test_curves_are_no_character(delivered):
    with pytest.raises(InputError, match="table of curves"):
        put_right(pair(delivered, "curve table")[0], pair(delivered)[0])


def test_few_keys_that_were_baked_are_no_difference(delivered):
    delivery = delivered("odile", tolerance=0.002)
    base = brought(written(delivery, "gltf"), "gltf")
    full, _ = pair(delivered)
    assert differences(put_right(full, base), tolerance=0.002) == []


def test_a_gap_that_was_filled_is_a_difference(delivered):
    base, _ = pair(delivered, "curve table")
    values = base.curves["jawOpen"].copy()
    values[5:9] = np.nan
    gap = replace(base, curves={**base.curves, "jawOpen": values})
    (one,) = differences(put_right(base, gap))
    assert one.runs == ((5, 8),)
    assert one.filled is not None
    np.testing.assert_array_equal(one.filled[5:9], base.curves["jawOpen"][5:9])
    assert differences(put_right(gap, base)) == []  # blank says nothing


@pytest.mark.parametrize("name", ["clip.mp4", "notes", "take.wav"])
def test_what_cannot_come_back_is_refused_by_its_ending(name):
    with pytest.raises(InputError, match="cannot come back"):
        returning_form(name)


@pytest.mark.parametrize("form", FORMS)
@pytest.mark.parametrize("cut", [0, 20, 400])
def test_damaged_files_are_refused(form, cut, delivered):
    data = written(delivered("odile"), form)[:cut]
    with pytest.raises(InputError):
        read_returned(data, f"file{FORMS[form]}", RATE)


@pytest.mark.parametrize(
    "drawing",
    [
        'def "a" (references = @/etc/hostname@) {}',
        'def "a" (payload = @../other.usda@) {}',
        'def "a" (prepend variantSets = "v") {\nvariantSet "v" = { "x" (\nclips = { dictionary d = { asset[] assetPaths = [@/etc/hostname@] } }\n) { } }\n}',
        'def "a" (clips = { dictionary default = { asset[] assetPaths = [@/etc/hostname@] } }) {}',
    ],
)
def test_a_stage_that_draws_on_other_files_is_refused(drawing):
    """A path that somebody sends is never opened."""
    with pytest.raises(InputError, match="another file"):
        read_returned(f"#usda 1.0\n{drawing}\n".encode(), "stage.usda", RATE)
    with pytest.raises(InputError, match="another file"):
        read_returned(b"#usda 1.0\n(subLayers = [@/etc/hostname@])\n", "stage.usda", RATE)
