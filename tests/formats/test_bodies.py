"""Body takes in files: BVH with several roots, glTF with skeletons that move; stood up whatever their axes; damaged files are refused."""

import contextlib
from dataclasses import replace
from fractions import Fraction

import numpy as np
import pytest
from pygltflib import GLTF2, Animation, AnimationChannel, AnimationChannelTarget, AnimationSampler, Node, Scene, Skin

from dynaface.assets import ASSETS
from dynaface.core.body.rotations import about, multiply, rotate
from dynaface.core.body.skeleton import Motion
from dynaface.core.errors import DynafaceError, InputError
from dynaface.core.match.upright import stood_up
from dynaface.formats.bodies import read_bodies
from dynaface.formats.entries import bvh
from dynaface.formats.gltf.document import Appender
from dynaface.sims.skeletons import BUILDS, make
from dynaface.sims.walk import walk

WALK = walk(60, 4).motion
SHORT = replace(WALK, local=WALK.local[:90], root=WALK.root[:90])


def gltf(
    motions: list[Motion], scale: float = 1.0, skinned: bool = True, way: str = "LINEAR", holder: bool = False
) -> bytes:
    """Motions on skeletons of their own in one glTF, each under a node that scales it; holder: one node carries all."""
    document = GLTF2(scene=0, scenes=[Scene(nodes=[])], nodes=[], skins=[])
    out = Appender(document)
    animation = Animation(name="all", samplers=[], channels=[])
    for motion in motions:
        bones, first = motion.skeleton, len(document.nodes) + 1
        tops = [first + j for j, p in enumerate(bones.parents) if p < 0]
        document.nodes.append(Node(name=f"rig {first}", scale=[scale] * 3, children=tops))
        for j, name in enumerate(bones.names):
            below = [first + k for k, p in enumerate(bones.parents) if p == j]
            at = (bones.offsets[j] / scale).tolist()
            document.nodes.append(Node(name=name, translation=at, rotation=bones.rest[j].tolist(), children=below))
        if skinned:
            document.skins.append(Skin(joints=list(range(first, first + len(bones.names)))))
        times = out.accessor(
            (np.arange(motion.frames) / float(motion.rate)).astype(np.float32)[:, None], "SCALAR", limits=True
        )

        def track(node, path, values, kind, times=times):
            animation.samplers.append(AnimationSampler(input=times, output=out.accessor(values.astype(np.float32), kind), interpolation=way))  # fmt: skip
            animation.channels.append(AnimationChannel(sampler=len(animation.samplers) - 1, target=AnimationChannelTarget(node=node, path=path)))  # fmt: skip

        for j in range(len(bones.names)):
            track(first + j, "rotation", motion.local[:, j], "VEC4")
        track(first, "translation", (bones.offsets[0] + motion.root) / scale, "VEC3")
    roots = [i for i, n in enumerate(document.nodes) if (n.name or "").startswith("rig ")]
    if holder:
        document.nodes.append(Node(name="stage", children=roots))
        roots = [len(document.nodes) - 1]
    document.scenes[0].nodes = roots
    document.animations = [animation]
    out.finish()
    return b"".join(document.save_to_bytes())


def places(motion: Motion) -> np.ndarray:
    return motion.skeleton.pose(motion.local, motion.root)[1]


class TestGltf:
    @pytest.mark.parametrize(("scale", "skinned"), [(1.0, True), (0.01, True), (1.0, False)])
    def test_a_skeleton_that_moves_is_a_body_take(self, scale, skinned):
        (found,) = read_bodies(gltf([SHORT], scale, skinned), "walk.glb")
        moved = found.motion
        assert (moved.rate, moved.frames) == (Fraction(60), 90)
        at = moved.skeleton.names.index
        ours = places(moved)[:, [at(n) for n in SHORT.skeleton.names]]
        np.testing.assert_allclose(ours, places(SHORT), atol=2e-5)
        assert found.describe()["fingers"] == 30

    @pytest.mark.parametrize("holder", [False, True])
    def test_several_performers_are_told_apart(self, holder):
        other = replace(SHORT, skeleton=replace(SHORT.skeleton, names=tuple(f"b_{n}" for n in SHORT.skeleton.names)),
                        root=SHORT.root + [1.0, 0, 0])  # fmt: skip
        found = read_bodies(gltf([SHORT, other], holder=holder), "both.glb")
        assert [len(f.motion.skeleton.names) for f in found] == [53, 53]
        shift = places(found[1].motion)[:, -1] - places(found[0].motion)[:, -1]
        np.testing.assert_allclose(shift, np.tile([1.0, 0, 0], (90, 1)), atol=1e-5)

    def test_steps_are_followed(self):
        (found,) = read_bodies(gltf([SHORT], way="STEP"), "walk.glb")
        at = found.motion.skeleton.names.index
        np.testing.assert_allclose(places(found.motion)[:, at("Hips")], places(SHORT)[:, 0], atol=1e-5)

    def test_a_character_that_does_not_move_is_no_body_take(self):
        with pytest.raises(InputError, match="no animation of this file turns"):
            read_bodies((ASSETS / "characters/odile.glb").read_bytes(), "odile.glb")

    def test_a_damaged_file_is_refused_or_read_never_worse(self):
        good = gltf([replace(SHORT, local=SHORT.local[:5], root=SHORT.root[:5])])
        rng = np.random.default_rng(3)
        for _ in range(60):
            bad = bytearray(good)
            for at in rng.integers(12, len(bad), 4):
                bad[at] = rng.integers(256)
            with contextlib.suppress(DynafaceError):
                read_bodies(bytes(bad), "walk.glb")
        for length in (0, 11, 30, len(good) // 2):
            with pytest.raises(DynafaceError):
                read_bodies(good[:length], "walk.glb")

    def test_wrong_counts_and_times_are_named(self):
        document = GLTF2.load_from_bytes(gltf([SHORT]))
        document.animations[0].samplers[0].output = document.animations[0].samplers[-1].output
        with pytest.raises(InputError, match="values for 90 moments"):
            read_bodies(b"".join(document.save_to_bytes()), "walk.glb")


class TestBvh:
    def two(self) -> bytes:
        texts = [bvh.write(replace(SHORT, root=SHORT.root + [x, 0, 0])).decode().split("MOTION\n") for x in (0.0, 2.0)]
        heads = [t[0].removeprefix("HIERARCHY\n") for t in texts]
        rows = [t[1].split("\n") for t in texts]
        body = [f"{a} {b}" for a, b in zip(rows[0][2:92], rows[1][2:92], strict=True)]
        return ("HIERARCHY\n" + "".join(heads) + "MOTION\n" + "\n".join([*rows[0][:2], *body]) + "\n").encode()

    def test_each_root_is_a_performer(self):
        found = read_bodies(self.two(), "both.bvh")
        assert len(found) == 2
        for body, x in zip(found, (0.0, 2.0), strict=True):
            np.testing.assert_allclose(places(body.motion)[:, 0], places(SHORT)[:, 0] + [x, 0, 0], atol=1e-4)
        assert bvh.read(self.two()).frames == 90

    def test_what_stands_between_roots_is_named(self):
        with pytest.raises(InputError, match="'NONSENSE' stands where 'ROOT' should be"):
            read_bodies(self.two().replace(b"ROOT Hips", b"NONSENSE Hips", 2).replace(b"NONSENSE", b"ROOT", 1), "a.bvh")

    def test_other_files_are_refused(self):
        with pytest.raises(InputError, match="not a body take"):
            read_bodies((ASSETS / "demo/mara_lamp.csv").read_bytes(), "mara_lamp.csv")


class TestStandingUp:
    @pytest.mark.parametrize(
        "turn",
        [about("x", 90), about("x", -90), about("z", 90), multiply(about("x", 90), about("y", 180)), about("y", 90)],
    )
    def test_whatever_is_up_comes_to_be_up_and_what_moved_moves_alike(self, turn):
        bones = SHORT.skeleton
        tipped = replace(
            SHORT,
            skeleton=replace(bones, rest=np.array([multiply(turn, bones.rest[0]), *bones.rest[1:]]), offsets=np.array([rotate(turn, bones.offsets[0]), *bones.offsets[1:]])),
            local=np.concatenate([multiply(turn, SHORT.local[:, :1]), SHORT.local[:, 1:]], axis=1),
            root=np.array([rotate(turn, r) for r in SHORT.root]),
        )  # fmt: skip
        np.testing.assert_allclose(places(stood_up(tipped)), places(SHORT), atol=1e-9)

    def test_a_body_that_stands_stays_as_it_is(self):
        assert stood_up(SHORT) is SHORT

    @pytest.mark.parametrize("name", ["Z up, centimetres", "hundredfold"])
    def test_made_skeletons_stand_with_their_feet_below_their_heads(self, name):
        made = make(next(b for b in BUILDS if b.make == name), 5)
        still = Motion(made.skeleton, made.skeleton.rest[None].repeat(2, axis=0), np.zeros((2, 3)), Fraction(60))
        at = places(stood_up(still))[0]
        head, foot = (at[made.truth.index(t)] for t in ("head", "L foot"))
        assert head[1] - foot[1] > 0.95 * np.linalg.norm(head - foot)
        left = at[made.truth.index("L hand")] - at[made.truth.index("R hand")]
        assert left[0] > 0.9 * np.linalg.norm(left)

    def test_one_without_limbs_is_left_alone(self):
        alone = replace(SHORT, skeleton=replace(SHORT.skeleton, offsets=np.zeros_like(SHORT.skeleton.offsets)))
        assert stood_up(alone) is alone
