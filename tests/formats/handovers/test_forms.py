"""Every form of handover: what it writes is read back and is what the viewer shows."""

import shutil
from dataclasses import replace

import numpy as np
import pytest

from dynaface.core.errors import InputError
from dynaface.core.handover.delivery import Delivery
from dynaface.formats.catalogue import HANDOVERS
from dynaface.formats.entries import bvh, curve_table, wav
from dynaface.formats.gltf.bake import sample_glb

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
    every, few = (form.write(delivered("odile", tolerance=t), {}, quiet)["odile.glb"] for t in (0.0, 0.005))
    assert len(few) < len(every) * 0.999
    made = delivered("odile").first.performance
    read = sample_glb(few, np.arange(40), made.channels.rate)
    target = made.cast.targets.index("jawOpen")
    assert np.abs(read[("face", "weights of jawOpen")] - made.cast.weights[:, target]).max() <= 0.005 + 1e-4


def test_names_of_joints_and_targets_take_the_prefix_in_all_that_have_names(delivered):
    delivery = delivered("odile", prefix="hero_")
    read = sample_glb(HANDOVERS["gltf"].write(delivery, {}, quiet)["odile.glb"], np.array([0]))
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
    assert str(table.timecode) == str(meant)
    body = bvh.read(HANDOVERS["bvh"].write(delivery, HANDOVERS["bvh"].complete({}), quiet)["odile.bvh"])
    assert str(body.timecode) == str(meant)
    edit = HANDOVERS["edit list"].check(HANDOVERS["edit list"].write(delivery, {}, quiet), delivery, {}, "")
    assert all(c.ok for c in edit)


def test_the_sound_is_cut_to_the_frames(delivered):
    """It begins a tenth of a second after frame 0, and is silent before."""
    read = wav.read(HANDOVERS["sound"].write(delivered("odile"), {}, quiet)["shot.wav"])
    assert read.seconds == pytest.approx(40 / 60, abs=1e-4)
    begins = int(0.1 * read.rate)
    assert not read.samples[: begins - 1].any()
    assert np.abs(read.samples[begins : begins + 200]).max() > 0.1
