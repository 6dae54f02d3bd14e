"""Every form of handover: what it writes is read back and is what the viewer shows."""

import shutil
from dataclasses import replace

import ezc3d
import numpy as np
import pytest

from dynaface.core.errors import InputError
from dynaface.core.handover.delivery import Delivery
from dynaface.formats.catalogue import HANDOVERS
from dynaface.formats.entries import bvh, c3d, curve_table, wav
from dynaface.formats.gltf.bake import sample_glb
from dynaface.formats.gltf.document import open_glb

NODE = shutil.which("node") or ""
OPTIONS = [
    {}, {"first": 5, "last": 20, "handles": 3}, {"rate": "24"}, {"rest": True, "neutral": True}, {"tolerance": 0.002},
    {"prefix": "hero_"}, {"head": False, "travel": False},
]  # fmt: skip


def quiet(part, message):
    """Says nothing."""


DRAWN = {"movie", "stills"}  # have tests of their own: each picture takes its time


@pytest.mark.parametrize("options", OPTIONS, ids=lambda o: ",".join(o) or "as it is")
@pytest.mark.parametrize("form", [f for f in HANDOVERS if f not in DRAWN])
def test_what_is_written_reads_back_whatever_is_asked_for(form, options, delivered):
    delivery = delivered("odile", **options)
    settings = HANDOVERS[form].complete({})
    assert HANDOVERS[form].lacks(delivery) == ""
    files = HANDOVERS[form].write(delivery, settings, quiet)
    found = HANDOVERS[form].check(files, delivery, settings, NODE)
    assert found
    assert all(c.ok for c in found), found
    assert any(name.endswith(HANDOVERS[form].ending) for name in files)


@pytest.mark.parametrize("form", ["gltf", "usd", "bvh"])
@pytest.mark.parametrize("name", ["brindle", "kettle"])
def test_other_characters_read_back_as_well(form, name, delivered):
    delivery, settings = delivered(name), HANDOVERS[form].complete({})
    files = HANDOVERS[form].write(delivery, settings, quiet)
    assert all(c.ok for c in HANDOVERS[form].check(files, delivery, settings, NODE))


@pytest.mark.parametrize("form", ["gltf", "usd", "bvh", "curve table", "sound", "edit list"])
def test_a_file_that_plays_something_else_is_not_called_right(form, delivered):
    """The check compares the file with the delivery that it is given: here with another stretch of it."""
    settings = HANDOVERS[form].complete({})
    files = HANDOVERS[form].write(delivered("odile", first=0, last=19), settings, quiet)
    other = delivered("odile", first=15, last=34)
    assert not all(c.ok for c in HANDOVERS[form].check(files, other, settings, ""))


@pytest.mark.parametrize(
    ("form", "message"),
    [
        ("gltf", "no character"),
        ("markers", "no markers"),
        ("usd", "no character"),
        ("bvh", "no skeleton"),
        ("sound", "no sound"),
        ("edit list", "which recordings"),
    ],
)
def test_each_says_what_it_lacks(form, message, delivered):
    whole = delivered("odile")
    bare = Delivery("x", (replace(whole.first, model=None, skeleton=None),), whole.options)
    assert message in HANDOVERS[form].lacks(bare)
    assert HANDOVERS["curve table"].lacks(bare) == ""


def test_settings_are_checked():
    assert HANDOVERS["bvh"].complete({"up": "z"}) == {"units": "centimetres", "up": "z"}
    with pytest.raises(InputError, match="up is 'x'"):
        HANDOVERS["bvh"].complete({"up": "x"})
    with pytest.raises(InputError, match="parameter is 'colour'"):
        HANDOVERS["usd"].complete({"colour": "red"})


@pytest.mark.parametrize("up", ["y", "z"])
@pytest.mark.parametrize(("units", "scale"), [("centimetres", 100), ("metres", 1), ("inches", 1 / 0.0254)])
def test_a_body_is_as_large_and_stands_as_it_is_asked(units, scale, up, delivered):
    form, delivery = HANDOVERS["bvh"], delivered("odile")
    settings = form.complete({"units": units, "up": up})
    files = form.write(delivery, settings, quiet)
    assert all(c.ok for c in form.check(files, delivery, settings, ""))
    lines = files["odile.bvh"].decode().splitlines()
    last = np.array(lines[-2].split()[:3] if lines[-1].startswith("#") else lines[-1].split()[:3], float) / scale
    first = (
        np.array(
            next(ln for ln in lines if ln.startswith("Frame Time")) and lines[lines.index("MOTION") + 3].split()[:3],
            float,
        )
        / scale
    )
    np.testing.assert_allclose(last - first, [1.5, 0, 0.5] if up == "y" else [1.5, -0.5, 0], atol=1e-4)


def test_few_keys_make_a_smaller_file_that_plays_the_same(delivered):
    form = HANDOVERS["gltf"]
    every, few = (
        form.write(delivered("odile", tolerance=t), form.complete({}), quiet)["odile.glb"] for t in (0.0, 0.005)
    )
    assert len(few) < len(every) * 0.999
    made = delivered("odile").first.performance
    read = sample_glb(few, np.arange(40), made.channels.rate)
    target = made.cast.targets.index("jawOpen")
    assert np.abs(read[("face", "weights of jawOpen")] - made.cast.weights[:, target]).max() <= 0.005 + 1e-4


def test_names_of_joints_and_targets_take_the_prefix_in_all_that_have_names(delivered):
    delivery = delivered("odile", prefix="hero_")
    read = sample_glb(
        HANDOVERS["gltf"].write(delivery, HANDOVERS["gltf"].complete({}), quiet)["odile.glb"], np.array([0])
    )
    assert ("hero_head", "rotation") in read
    assert ("face", "weights of hero_jawOpen") in read
    body = bvh.read(HANDOVERS["bvh"].write(delivery, HANDOVERS["bvh"].complete({}), quiet)["odile.bvh"])
    assert all(name.startswith("hero_") for name in body.skeleton.names)


def test_timecode_is_the_same_in_every_file_that_has_a_place_for_it(delivered):
    """To the frame and the remainder: the count runs at 29.97, the curves at 60."""
    delivery = delivered("odile", first=7)
    meant = delivery.first.performance.channels.timecode
    sound = wav.read(HANDOVERS["sound"].write(delivery, {}, quiet)["shot.wav"])
    assert sound.timecode.seconds == pytest.approx(meant.seconds, abs=1 / sound.rate)
    table, _ = curve_table.read_table(HANDOVERS["curve table"].write(delivery, {}, quiet)["odile.csv"])
    assert table.timecode.seconds == pytest.approx(meant.seconds, abs=1e-6)
    body = bvh.read(HANDOVERS["bvh"].write(delivery, HANDOVERS["bvh"].complete({}), quiet)["odile.bvh"])
    assert body.timecode.seconds == pytest.approx(meant.seconds, abs=1e-6)
    edit = HANDOVERS["edit list"].check(HANDOVERS["edit list"].write(delivery, {}, quiet), delivery, {}, "")
    assert all(c.ok for c in edit)


def test_the_sound_is_cut_to_the_frames(delivered):
    """It begins a tenth of a second after frame 0, and is silent before."""
    read = wav.read(HANDOVERS["sound"].write(delivered("odile"), {}, quiet)["shot.wav"])
    assert read.seconds == pytest.approx(40 / 60, abs=1e-4)
    begins = int(0.1 * read.rate)
    assert not read.samples[: begins - 1].any()
    assert np.abs(read.samples[begins : begins + 200]).max() > 0.1


def alone_moving(delivery):
    """How many meshes move in the files of each alone."""
    files = HANDOVERS["gltf"].write(delivery, HANDOVERS["gltf"].complete({}), quiet)
    moving = {n: sum(c.target.path == "weights" for c in open_glb(d).animations[0].channels) for n, d in files.items()}
    return sum(moving[f"{f.name}.glb"] for f in delivery.figures)


def test_all_characters_in_one_gltf_stand_where_they_stand_and_play_together(delivered):
    delivery, form = delivered("odile", "brindle", "odile"), HANDOVERS["gltf"]
    settings = form.complete({"characters": "all in one file"})
    files = form.write(delivery, settings, quiet)
    assert list(files) == ["shot.glb"]
    found = form.check(files, delivery, settings, NODE)
    assert all(c.ok for c in found), found
    assert [c.what.split(":")[0] for c in found] == ["odile", "brindle", "odile", "glTF validator"]
    document = open_glb(files["shot.glb"])
    (animation,) = document.animations
    assert len({c.target.node for c in animation.channels if c.target.path == "weights"}) == alone_moving(delivery)
    roots = [document.nodes[n] for n in document.scenes[0].nodes]
    assert [r.name for r in roots] == ["odile", "brindle", "odile"]
    assert [r.translation for r in roots] == [[0, 0, 0.5], [1, 0, 0.5], [2, 0, 0.5]]
    alone = sum(len(open_glb(f.model).meshes) for f in delivery.figures)
    assert (len(document.meshes), len(document.skins)) == (alone, 3)


def test_a_character_of_another_size_is_not_taken_for_one_of_them(delivered):
    """The second plays what the third should: said to be wrong."""
    form = HANDOVERS["gltf"]
    settings = form.complete({"characters": "all in one file"})
    files = form.write(delivered("odile", "odile"), settings, quiet)
    given = delivered("odile", "odile")
    still = given.figures[1].performance
    other = replace(still, cast=replace(still.cast, weights=still.cast.weights * 0.5 + 0.1))
    given = replace(given, figures=(given.figures[0], replace(given.figures[1], performance=other)))
    found = form.check(files, given, settings, "")
    assert [c.ok for c in found[:2]] == [True, False]


def test_markers_are_read_by_another_reader(delivered, tmp_path):
    delivery, form = delivered("odile", first=15), HANDOVERS["markers"]
    files = form.write(delivery, {}, quiet)
    (tmp_path / "shot.c3d").write_bytes(files["shot.c3d"])
    read = ezc3d.c3d(str(tmp_path / "shot.c3d"))
    assert read["parameters"]["POINT"]["LABELS"]["value"] == ["brow left", "chin"]
    assert read["parameters"]["POINT"]["RATE"]["value"][0] == 120
    # Frame 15 at 60 fps is frame 30 of the markers, from which on the chin is lost for 14 frames.
    points = read["data"]["points"]
    assert points.shape[1:] == (2, 50)
    assert points[:3, 0, 0] == pytest.approx([250, 1500, 125], abs=1e-2)
    assert np.isnan(points[0, 1, :14]).all() or (read["data"]["meta_points"]["residuals"][0, 1, :14] < 0).all()
    assert np.isfinite(points[0, 1, 14:]).all()


def test_markers_at_another_rate_lie_between_their_neighbours(delivered):
    read = c3d.read(HANDOVERS["markers"].write(delivered("odile", rate="50"), {}, quiet)["shot.c3d"])
    assert read.rate == 50
    moment = 7 / 50
    assert read.points[7, 0] == pytest.approx([moment, 1.5, moment / 2], abs=1e-6)
    assert read.timecode.seconds == pytest.approx(36_000 + 0.25 / 120, abs=1e-6)
