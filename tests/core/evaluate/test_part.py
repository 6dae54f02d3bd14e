"""A stretch of a role worked out alone is what the whole evaluation gives there, and nothing changes beside it."""

from fractions import Fraction

import numpy as np
import pytest

from dynaface.assets import ASSETS
from dynaface.core.cast.sheet import CastSheet
from dynaface.core.curves.channels import Channels
from dynaface.core.curves.keys import Key
from dynaface.core.evaluate.cache import Cache
from dynaface.core.evaluate.node import constant
from dynaface.core.evaluate.part import RoleLayers, changed_part
from dynaface.core.evaluate.shot import UNTOUCHED, OnRig, role_graph
from dynaface.core.layers.changed import changed_frames
from dynaface.core.layers.layer import Layer
from dynaface.core.layers.maker import placed_maker
from dynaface.core.layers.span import Span
from dynaface.core.layers.weight import Weight
from dynaface.core.shapes.standard import HEAD_ANGLES, SHAPES
from dynaface.core.shot.placement import Placement
from dynaface.formats.gltf.character import read_character

FRAMES = 1200
NAMES = (*SHAPES, *HEAD_ANGLES)
ODILE = read_character((ASSETS / "characters/odile.glb").read_bytes())


def take():
    at = np.arange(FRAMES)[:, None]
    values = 0.3 + 0.25 * np.sin(at / 23 + np.arange(len(NAMES)))
    values[:, len(SHAPES) :] *= 20
    return constant("take", Channels(NAMES, values.astype(np.float32), Fraction(60)))


def graph(layers, character=ODILE, on_rig=UNTOUCHED):
    placed = [(Placement(Fraction(0), Fraction(0), Fraction(FRAMES, 60)), take())]
    rig = constant("odile", character) if character else None
    return role_graph(placed, Fraction(60), FRAMES, {}, layers, rig, CastSheet(), on_rig=on_rig)


def part_of(before, after, cache, character=ODILE):
    """The part that changes between two lists of layers on the performance."""
    return changed_part(graph(before, character), RoleLayers(before), RoleLayers(after), character, CastSheet(), cache)


def keyed(moved=0.0, frame=600.0, kind="add"):
    keys = (Key(0, 0.0), Key(frame - 60, 0.0, kind="flat"), Key(frame, 0.2 + moved), Key(frame + 60, 0.0, kind="flat"))
    return Layer(kind, weight=Weight(0.8), keys={"jawOpen": keys, "headTurn": keys})


SPAN = Layer("add", spans=(Span(700, 740, offset={"mouthSmileLeft": 0.3}, id="s"),))


@pytest.mark.parametrize("kind", ["add", "replace", "scale"])
@pytest.mark.parametrize("above", [(), (SPAN,), (Layer("scale", keys={"jawOpen": (Key(0, 0.5), Key(900, 1.5))}),)])
def test_a_key_that_is_moved_gives_what_the_whole_gives(kind, above):
    before, after = [SPAN, keyed(kind=kind), *above], [SPAN, keyed(0.3, kind=kind), *above]
    cache = Cache(400_000_000)
    part = part_of(before, after, cache)
    assert part is not None
    own = slice(part.first, part.first + part.tidied.frames)
    whole, old = graph(after), graph(before)
    assert part.tidied.values == pytest.approx(whole.tidied.result(cache).values[own], abs=1e-6)
    assert part.cast.weights == pytest.approx(whole.cast.result(cache).weights[own], abs=1e-5)
    made, there = part.performed, whole.performed.result(cache)
    assert made.joints == there.joints
    alike = np.abs((made.local * there.local[own]).sum(axis=2))
    assert alike == pytest.approx(1, abs=1e-5)  # the same turns, of either sign
    beside = np.ones(FRAMES, bool)
    beside[own] = False
    assert np.array_equal(whole.tidied.result(cache).values[beside], old.tidied.result(cache).values[beside])
    assert whole.cast.result(cache).weights[beside] == pytest.approx(old.cast.result(cache).weights[beside], abs=1e-5)


def test_a_span_that_is_moved_changes_where_it_was_and_where_it_is():
    moved = Layer("add", spans=(Span(760, 800, offset={"mouthSmileLeft": 0.3}, id="s"),))
    first, stop = changed_frames(SPAN, moved, FRAMES)
    assert first <= 700 - 6
    assert stop > 800 + 6
    assert changed_frames(SPAN, SPAN, FRAMES) == (0, 0)


def test_a_layer_that_changes_in_kind_reach_weight_or_makers_changes_everywhere():
    whole = (0, FRAMES)
    for other in (
        keyed(kind="scale"),
        Layer("add", frozenset({"jaw"}), keyed().weight, keyed().keys),
        Layer("add", weight=Weight(0.3), keys=keyed().keys),
        Layer("add", weight=keyed().weight, keys=keyed().keys, makers=(placed_maker("alive", {}),)),
    ):
        assert changed_frames(keyed(), other, FRAMES) == whole
    bare = Layer("replace", weight=Weight(0.8))
    assert changed_frames(bare, keyed(kind="replace"), FRAMES) == whole


def test_it_says_so_where_a_stretch_is_not_enough():
    cache = Cache(400_000_000)
    blinks = Layer("add", makers=(placed_maker("blinks", {}),))
    with_maker = [keyed(), blinks]
    assert part_of(with_maker, [keyed(0.1), blinks], cache) is None
    wide = [Layer("add", keys={"jawOpen": (Key(0, 0.1), Key(FRAMES, 0.1))})]
    wider = [Layer("add", keys={"jawOpen": (Key(0, 0.1), Key(FRAMES, 0.2))})]
    assert part_of(wide, wider, cache) is None
    assert part_of(wide, wide, cache) is None


def test_without_a_character_the_curves_alone_change():
    before, after = [keyed()], [keyed(0.3)]
    part = part_of(before, after, Cache(400_000_000), None)
    assert part is not None
    assert part.cast is None


SHOWN = ("target jawOpen", "joint head turn x")


def touching(moved=0.0):
    keys = {name: tuple(Key(k.frame, k.value * size, kind=k.kind) for k in keyed(moved).keys["jawOpen"])
            for name, size in (("target jawOpen", 1), ("joint head turn x", 40))}  # fmt: skip
    return Layer("add", weight=Weight(0.9), keys=keys)


@pytest.mark.parametrize("beneath", [0.0, 0.2], ids=["touch-up alone", "both"])
def test_a_touch_up_that_is_dragged_gives_what_the_whole_gives(beneath):
    scaled = Layer("scale", keys={"target jawOpen": (Key(0, 0.5), Key(900, 1.2))})
    before = RoleLayers([keyed()], OnRig((touching(), scaled), SHOWN))
    after = RoleLayers([keyed(beneath)], OnRig((touching(0.3), scaled), SHOWN))
    cache = Cache(400_000_000)
    part = changed_part(graph(before.face, on_rig=before.on_rig), before, after, ODILE, CastSheet(), cache)
    assert part is not None
    own = slice(part.first, part.first + part.tidied.frames)
    whole = graph(after.face, on_rig=after.on_rig)
    assert part.cast.weights == pytest.approx(whole.cast.result(cache).weights[own], abs=1e-5)
    assert part.rig.values == pytest.approx(whole.rig.result(cache).values[own], abs=1e-4)
    assert part.rig_raw.values == pytest.approx(whole.rig_raw.result(cache).values[own], abs=1e-4)
    there = whole.performed.result(cache)
    alike = np.abs((part.performed.local * there.local[own]).sum(axis=2))
    assert alike == pytest.approx(1, abs=1e-5)


def test_a_touch_up_changes_nothing_before_the_cast_sheet():
    cache = Cache(400_000_000)
    plain, touched = graph([SPAN]), graph([SPAN], on_rig=OnRig((touching(0.3),)))
    assert plain.tidied.key == touched.tidied.key
    moved = np.abs(touched.cast.result(cache).weights - plain.cast.result(cache).weights).max(axis=0)
    assert [plain.cast.result(cache).targets[n] for n in np.flatnonzero(moved)] == ["jawOpen"]


def test_a_touch_up_without_weight_changes_nothing():
    cache = Cache(400_000_000)
    silent = Layer("add", weight=Weight(0.0), keys=touching(0.3).keys)
    plain, touched = graph([SPAN]), graph([SPAN], on_rig=OnRig((silent,)))
    assert np.array_equal(plain.cast.result(cache).weights, touched.cast.result(cache).weights)
    one, other = plain.performed.result(cache), touched.performed.result(cache)
    assert one.joints == other.joints
    assert np.array_equal(one.local, other.local)
