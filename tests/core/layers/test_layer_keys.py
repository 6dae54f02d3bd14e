"""The key kit on a layer: what is drawn is the face as it shall be, whatever the layer's kind, weight and the layers above."""

import numpy as np
import pytest

from dynaface.core.curves.channels import Channels
from dynaface.core.curves.held import Held
from dynaface.core.curves.keys import Key, evaluate_keys
from dynaface.core.errors import InputError
from dynaface.core.keying.case import Column
from dynaface.core.keying.kit import EDITS, edited_keys
from dynaface.core.layers.layer import Layer, apply_layer
from dynaface.core.layers.layer_case import MODE, LayerCase
from dynaface.core.layers.weight import Weight
from dynaface.core.shapes.standard import CHANNELS

FRAMES = 200
NAMES = ("jawOpen", "mouthSmileLeft", "mouthSmileRight", "headTurn", "headNod", "headTilt")
KINDS = ("add", "replace", "scale")


def capture():
    at = np.arange(FRAMES)[:, None]
    values = 0.4 + 0.3 * np.sin(at / 17 + np.arange(len(NAMES))).astype(np.float32)
    return Channels(NAMES, values * np.array([1, 1, 1, 20, 10, 5], np.float32), 60.0)


class Stack:
    """A layer of a kind on the capture, with another one above it."""

    def __init__(self, kind, weight=1.0, keys=None, above=None):
        self.kind, self.weight, self.keys, self.above = kind, weight, keys or {}, above

    def face(self, keys=None):
        layer = Layer(self.kind, weight=Weight(self.weight), keys=self.keys if keys is None else keys)
        made = apply_layer(capture(), layer)
        return apply_layer(made, self.above) if self.above else made

    def edit(self, do, channels, **more):
        held = {c: Held(MODE[self.kind], k) for c, k in self.keys.items()}
        raw, beneath, now = capture(), self.face({}), self.face()
        edit = {"do": do, "channels": channels, **more}

        def case(channel, own, chosen):
            column = Column(*(c.column(channel) for c in (raw, beneath, now)), 60.0)
            result = lambda name, keys: self.face({**self.keys, name: keys}).column(name)  # noqa: E731
            return LayerCase(self.kind, result, channel, own, chosen, held, column, edit)

        made, report = edited_keys(edit, CHANNELS, held, case)
        keys = {**self.keys, **{c: h.keys for c, h in made.items() if h}}
        for gone in [c for c, h in made.items() if h is None]:
            keys.pop(gone, None)
        return Stack(self.kind, self.weight, keys, self.above), report


@pytest.mark.parametrize("kind", KINDS)
@pytest.mark.parametrize("weight", [1.0, 0.4, 1.5])
@pytest.mark.parametrize("channel", ["mouthSmileLeft", "headTurn"])
def test_the_face_goes_where_it_is_drawn_and_stays_elsewhere(kind, weight, channel):
    scale = 20 if channel == "headTurn" else 1
    stack = Stack(kind, weight)
    before = stack.face().column(channel)
    after = stack.edit("draw", {channel: []}, points=[[60, 0.3 * scale], [100, 0.5 * scale]])[0].face().column(channel)
    line = np.interp(np.arange(60, 101), [60, 100], [0.3 * scale, 0.5 * scale])
    assert np.abs(after[60:101] - line).max() < 0.02 * scale
    assert np.abs(after[:58] - before[:58]).max() < 0.02 * scale
    assert np.abs(after[103:] - before[103:]).max() < 0.02 * scale


@pytest.mark.parametrize("kind", KINDS)
def test_a_layer_above_that_weakens_it_is_made_up_for(kind):
    above = Layer("scale", keys={"jawOpen": (Key(0, 0.5),)})
    stack = Stack(kind, above=above)
    drawn = stack.edit("draw", {"jawOpen": []}, points=[[60, 0.3], [100, 0.3]])[0]
    assert drawn.face().column("jawOpen")[60:101] == pytest.approx(0.3, abs=0.01)


def test_a_face_that_does_not_follow_says_so():
    for stack in (Stack("add", 0.0), Stack("add", above=Layer("replace", keys={"jawOpen": (Key(0, 0.2),)}))):
        with pytest.raises(InputError, match="jawOpen does not follow this layer"):
            stack.edit("draw", {"jawOpen": []}, points=[[60, 0.3], [100, 0.5]])


@pytest.mark.parametrize("kind", KINDS)
def test_keys_begun_change_nothing(kind):
    stack = Stack(kind)
    begun = stack.edit("correct", {"jawOpen": []})[0]
    assert begun.keys["jawOpen"]
    assert begun.face().column("jawOpen") == pytest.approx(stack.face().column("jawOpen"), abs=0.006)


@pytest.mark.parametrize("kind", KINDS)
def test_a_first_key_changes_nothing_at_its_frame(kind):
    stack = Stack(kind)
    keyed = stack.edit("insert", {"jawOpen": []}, frame=50)[0]
    assert len(keyed.keys["jawOpen"]) == 1
    assert keyed.face().column("jawOpen")[50] == pytest.approx(stack.face().column("jawOpen")[50], abs=1e-5)


@pytest.mark.parametrize("kind", KINDS)
def test_a_key_put_in_at_a_value_brings_the_face_there(kind):
    keyed = Stack(kind, 0.5).edit("insert", {"jawOpen": []}, frame=50, value=0.6)[0]
    assert keyed.face().column("jawOpen")[50] == pytest.approx(0.6, abs=1e-4)


@pytest.mark.parametrize("kind", KINDS)
def test_a_range_restored_is_as_beneath_or_as_captured(kind):
    rest = {"add": 0.2, "replace": 0.9, "scale": 1.4}[kind]
    stack = Stack(kind, keys={"jawOpen": (Key(0, rest), Key(FRAMES - 1, rest))})
    for to in ("stack", "raw"):
        back = stack.edit("restore", {"jawOpen": []}, first=80, last=120, to=to)[0].face().column("jawOpen")
        assert np.abs(back[80:121] - capture().column("jawOpen")[80:121]).max() < 0.012
        assert back[:70] == pytest.approx(stack.face().column("jawOpen")[:70], abs=0.01)


def test_keys_of_several_channels_are_copied_mirrored_and_scaled_in_time():
    keys = {"mouthSmileLeft": (Key(10, 0.1, id="a"), Key(20, 0.3, id="b")), "jawOpen": (Key(12, 0.2, id="c"),)}
    stack = Stack("add", keys=keys)
    mirrored = stack.edit("mirror", {"mouthSmileLeft": []})[0]
    assert [k.value for k in mirrored.keys["mouthSmileRight"]] == [0.1, 0.3]
    rows = {c: [k.plain() for k in held] for c, held in keys.items()}
    pasted = stack.edit("paste", {c: [] for c in keys}, copied=rows, frame=110, value=0)[0]
    assert [k.frame for k in pasted.keys["mouthSmileLeft"]] == [10, 20, 110, 120]
    scaled = stack.edit("scale", {"mouthSmileLeft": ["a", "b"]}, about=10, time=3)[0]
    assert [k.frame for k in scaled.keys["mouthSmileLeft"]] == [10, 40]


def test_only_a_layer_that_replaces_holds_whole_curves():
    held, report = Stack("replace").edit("reduce", {"jawOpen": []})
    assert report["jawOpen"]["worst"] < 0.006
    assert held.face().column("jawOpen") == pytest.approx(capture().column("jawOpen"), abs=0.006)
    for kind in ("add", "scale"):
        with pytest.raises(InputError, match="only a layer that replaces"):
            Stack(kind).edit("reduce", {"jawOpen": []})


def test_a_layer_that_replaces_and_had_no_keys_holds_the_face_around_a_brush():
    stack = Stack("replace")
    brushed = stack.edit("brush", {"jawOpen": []}, centre=100, size=10, amount=1, way="pull", value=0.9)[0]
    now, was = brushed.face().column("jawOpen"), stack.face().column("jawOpen")
    assert now[100] == pytest.approx(0.9, abs=0.02)
    assert np.abs(now[:85] - was[:85]).max() < 0.006


def test_nothing_is_left_of_a_channel_that_is_taken_off():
    stack = Stack("add", keys={"jawOpen": (Key(0, 0.2),)})
    assert stack.edit("clear", {"jawOpen": []})[0].keys == {}
    assert set(EDITS) == {
        "reduce", "clear", "correct", "insert", "delete", "move", "scale", "tangents", "slope", "value", "paste", "mirror",
        "draw", "brush", "restore",
    }  # fmt: skip
    assert evaluate_keys(stack.keys["jawOpen"], 1)[0] == pytest.approx(0.2)
