"""Props as glTF: read with and without a motion of their own, baked with the way that they went, damaged ones refused."""

import numpy as np
import pytest
from pygltflib import Animation, AnimationChannel, AnimationChannelTarget, AnimationSampler, Node

from dynaface.assets import ASSETS
from dynaface.core.body.rotations import about, multiply, rotate
from dynaface.core.errors import InputError
from dynaface.core.prop.prop import PropWay
from dynaface.formats.gltf.bake import sample_glb
from dynaface.formats.gltf.document import Appender, open_glb
from dynaface.formats.gltf.prop import bake_prop, carrier_of, describe_prop, read_prop
from tests.core.prop.test_carry import RATE, swinging

LANTERN = (ASSETS / "props/lantern.glb").read_bytes()


def moving_prop(shifts=None, turns=None, scale=1.0, paths=("translation", "rotation")):
    """The lantern below a node of some scale that turns it half about, animated so that all of it goes as `swinging` does."""
    own = swinging().motion
    shifts = own.shifts if shifts is None else shifts
    turns = own.turns if turns is None else turns
    document = open_glb(LANTERN)
    out = Appender(document)
    facing = about("y", 180.0)
    document.nodes.append(Node(name="stage", children=[0], rotation=[float(v) for v in facing], scale=[scale] * 3))
    document.nodes[0].scale = [1 / scale] * 3
    document.scenes[0].nodes = [1]
    back = facing * [-1, -1, -1, 1]
    tracks = {
        "translation": (rotate(back, np.asarray(shifts)) / scale, "VEC3"),
        "rotation": (multiply(multiply(back, np.asarray(turns)), facing), "VEC4"),
    }
    times = out.accessor((np.arange(len(shifts)) / float(RATE)).astype(np.float32)[:, None], "SCALAR", limits=True)
    animation = Animation(name="moved", samplers=[], channels=[])
    for number, path in enumerate(paths):
        values, kind = tracks[path]
        output = out.accessor(values.astype(np.float32), kind)
        animation.samplers.append(AnimationSampler(input=times, output=output, interpolation="LINEAR"))
        animation.channels.append(AnimationChannel(sampler=number, target=AnimationChannelTarget(node=0, path=path)))
    document.animations = [animation]
    out.finish()
    return b"".join(document.save_to_bytes())


class TestReading:
    def test_the_lantern_hangs_from_its_origin_and_stands_still(self):
        shape = read_prop(LANTERN)
        assert shape.motion is None
        assert shape.points[:, 1].max() < 0.01
        assert describe_prop(shape) == {"size": pytest.approx(0.301, abs=1e-3), "moves": False, "seconds": 0.0}

    @pytest.mark.parametrize("scale", [1.0, 0.01])
    def test_its_own_motion_is_that_of_all_of_it_whatever_carries_it(self, scale):
        shape, own = read_prop(moving_prop(scale=scale)), swinging().motion
        assert shape.motion is not None
        assert shape.motion.rate == RATE
        assert np.abs(shape.motion.shifts - own.shifts).max() < 1e-5
        assert np.abs(np.abs((shape.motion.turns * own.turns).sum(axis=1)) - 1).max() < 1e-6
        assert describe_prop(shape)["seconds"] == pytest.approx(6.0)

    @pytest.mark.parametrize("path", ["translation", "rotation"])
    def test_one_that_only_goes_or_only_turns_does_just_that(self, path):
        motion = read_prop(moving_prop(paths=(path,))).motion
        assert motion is not None
        still = motion.turns if path == "translation" else motion.shifts
        moved = motion.shifts if path == "translation" else motion.turns
        assert np.abs(np.diff(still, axis=0)).max() < 1e-6
        assert np.abs(np.diff(moved, axis=0)).max() > 1e-3

    @pytest.mark.parametrize("damaged", [b"", b"glTF", LANTERN[:200], LANTERN[:-40000]])
    def test_a_damaged_file_is_refused(self, damaged):
        with pytest.raises(InputError):
            read_prop(damaged)

    @pytest.mark.parametrize("scale", [-1.0, [1.0, 1.0, -1.0], [1.0, 0.0, 1.0]])
    def test_one_that_hangs_on_a_mirror_or_on_nothing_is_refused(self, scale):
        document = open_glb(moving_prop())
        document.nodes[1].scale = scale if isinstance(scale, list) else [scale] * 3
        with pytest.raises(InputError, match="mirrored or flat"):
            read_prop(b"".join(document.save_to_bytes()))

    def test_a_file_without_a_mesh_is_refused(self):
        document = open_glb(LANTERN)
        document.nodes[0].mesh = None
        with pytest.raises(InputError, match="no mesh"):
            read_prop(b"".join(document.save_to_bytes()))


class TestBaking:
    def way(self):
        return PropWay(swinging().motion.shifts, swinging().motion.turns)

    @pytest.mark.parametrize("data", [LANTERN, moving_prop()], ids=["still", "moving"])
    def test_it_goes_its_way_and_reads_back_as_a_prop_that_does(self, data):
        baked = bake_prop(data, self.way(), RATE, 1.0, "lantern", {"rate": "60"})
        read = sample_glb(baked, np.arange(360))
        assert np.abs(read[(carrier_of("lantern"), "translation")] - self.way().at).max() < 1e-6
        again = read_prop(baked).motion
        assert again is not None
        assert np.abs(again.shifts - self.way().at).max() < 1e-5

    def test_a_larger_one_is_as_large_as_it_was_shown(self):
        baked = bake_prop(LANTERN, self.way(), RATE, 2.5, "lantern", {})
        assert read_prop(baked).size == pytest.approx(2.5 * read_prop(LANTERN).size, rel=1e-4)

    def test_of_no_frames_nothing_is_baked(self):
        with pytest.raises(InputError, match="no frames"):
            bake_prop(LANTERN, PropWay(np.zeros((0, 3)), np.zeros((0, 4))), RATE, 1.0, "lantern", {})
