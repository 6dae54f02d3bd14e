import json
import os
import struct
import subprocess
from dataclasses import replace
from fractions import Fraction

import numpy as np
import pytest

from dynaface.assets import ASSETS
from dynaface.core.cast.sheet import CastSheet
from dynaface.core.clock.rates import parse_rate
from dynaface.core.clock.timecode import Timecode, parse_timecode
from dynaface.core.errors import DynafaceError, InputError
from dynaface.core.perform.perform import perform_take
from dynaface.core.sound.sound import Sound
from dynaface.formats.entries import bvh, wav
from dynaface.formats.gltf.bake import bake_glb, sample_glb
from dynaface.formats.gltf.character import read_character
from dynaface.formats.gltf.validate import VALIDATOR
from dynaface.sims.body_suit import move
from dynaface.sims.ltc import ltc
from tests.makers import channels, tone

ODILE = (ASSETS / "characters/odile.glb").read_bytes()


def raw_wav(samples, tag, bits, channels_=1, rate=16000):
    body = samples.tobytes()
    form = struct.pack("<HHIIHH", tag, channels_, rate, rate * channels_ * bits // 8, channels_ * bits // 8, bits)
    return (
        b"RIFF"
        + struct.pack("<I", 36 + len(body))
        + b"WAVEfmt "
        + struct.pack("<I", 16)
        + form
        + b"data"
        + struct.pack("<I", len(body))
        + body
    )


@pytest.mark.parametrize(
    ("bits", "tag", "stored", "within"),
    [
        (8, 1, lambda x: (x * 127 + 128).round().astype(np.uint8), 0.01), (16, 1, lambda x: (x * 32767).astype("<i2"), 1e-4),
        (32, 1, lambda x: (x * (2**31 - 1)).astype("<i4"), 1e-6), (32, 3, lambda x: x.astype("<f4"), 1e-6), (64, 3, lambda x: x.astype("<f8"), 1e-6),
        (24, 1, lambda x: np.stack([((x * 8388607).astype("<i4") >> s & 255).astype(np.uint8) for s in (0, 8, 16)], axis=1), 1e-6),
    ],
)  # fmt: skip
def test_every_depth_is_read(bits, tag, stored, within):
    samples = tone().samples[:, 0].astype(np.float64)
    read = wav.read(raw_wav(stored(samples), tag, bits))
    assert read.rate == 16000
    np.testing.assert_allclose(read.samples[:, 0], samples, atol=within)


def test_wav_comes_back():
    read = wav.read(wav.write(tone()))
    np.testing.assert_allclose(read.samples, tone().samples, atol=1e-4)


@pytest.mark.parametrize("rate", ["24000/1001", "24", "25", "30000/1001", "30", "60000/1001", "60", "120"])
@pytest.mark.parametrize("samples", [44_100, 48_000, 96_000])
def test_wav_keeps_when_it_begins_to_the_sample(rate, samples):
    fps = parse_rate(rate)
    for label, fraction in (("10:04:10:12", 0.0), ("23:59:59:23", 0.5), ("00:00:00:01", 0.25)):
        code = replace(parse_timecode(label, fps), fraction=fraction)
        read = wav.read(wav.write(replace(tone(0.1), rate=samples, timecode=code))).timecode
        assert (read.rate, read.drop) == (fps, False)
        assert read.seconds == pytest.approx(code.seconds, abs=0.51 / samples)
    dropped = replace(parse_timecode("10:04:10;02", parse_rate("30000/1001")))
    assert wav.read(wav.write(replace(tone(0.1), timecode=dropped))).timecode.drop


def with_chunk(data, name, body, behind=False):
    """A WAV with another chunk before its sound, or behind it."""
    chunk = name + struct.pack("<I", len(body)) + body + bytes(len(body) & 1)
    at = len(data) if behind else 36
    whole = data[:at] + chunk + data[at:]
    return whole[:4] + struct.pack("<I", len(whole) - 8) + whole[8:]


def bext(samples, size=602):
    body = bytearray(size)
    struct.pack_into("<Q", body, 338, samples)
    return bytes(body)


def test_a_recorder_that_says_no_rate_of_frames_still_says_when():
    read = wav.read(with_chunk(wav.write(tone(0.1)), b"bext", bext(16_000 * 3600))).timecode
    assert (str(read), read.rate) == ("01:00:00:00", 30)


def test_what_is_said_behind_the_sound_counts_too():
    ixml = b"<BWFXML><SPEED><TIMECODE_RATE>25/1</TIMECODE_RATE><TIMECODE_FLAG>NDF</TIMECODE_FLAG></SPEED></BWFXML>"
    data = with_chunk(with_chunk(wav.write(tone(0.1)), b"bext", bext(16_000 * 60 + 640)), b"iXML", ixml, behind=True)
    read = wav.read(data).timecode
    assert (str(read), read.rate) == ("00:01:00:01", 25)


@pytest.mark.parametrize(
    "body", [bext(0), bext(2**63), b"", b"short", bext(16_000 * 90_000)], ids=["none", "huge", "empty", "cut", "days"]
)
def test_a_time_reference_that_says_nothing_is_none(body):
    assert wav.read(with_chunk(wav.write(tone(0.1)), b"bext", body)).timecode is None


@pytest.mark.parametrize("said", [b"0/0", b"abc", b"99999999999", b"25", b"24000/1001"])
def test_a_rate_of_frames_that_is_none_is_passed_over(said):
    ixml = b"<TIMECODE_RATE>" + said + b"</TIMECODE_RATE>"
    data = with_chunk(with_chunk(wav.write(tone(0.1)), b"bext", bext(16_000 * 60)), b"iXML", ixml)
    assert wav.read(data).timecode.seconds == pytest.approx(60, abs=1e-4)


GOOD = wav.write(tone(0.1))


@pytest.mark.parametrize(
    ("data", "says"),
    [
        (b"", "no WAV"), (b"RIFF", "no WAV"), (GOOD[:200], "says that its data has"), (GOOD[:12], "no sound in it"),
        (GOOD[:40] + struct.pack("<I", 2**31) + GOOD[44:], "says that its data has 2147483648"),
        (raw_wav(np.zeros(8, np.int16), 85, 16), "compressed"), (raw_wav(np.zeros(8, np.int16), 1, 12), "12 bit"),
        (raw_wav(np.zeros(8, np.int16), 1, 16, rate=1), "at 1 Hz"), (raw_wav(np.array([np.nan], "<f4"), 3, 32), "not finite"),
        (raw_wav(np.zeros(0, np.int16), 1, 16), "no sound in it"),
    ],
)  # fmt: skip
def test_broken_wavs_are_refused_with_the_place(data, says):
    with pytest.raises(InputError, match=says) as caught:
        wav.read(data)
    assert "byte" in caught.value.where or "chunk" in caught.value.where


def test_bvh_comes_back():
    motion = move(2.5, parse_timecode("01:02:03:04", bvh.STANDARD_RATES[12]), 3)
    read = bvh.read(bvh.write(motion))
    assert read.skeleton.names == tuple(motion.skeleton.names[i] for i in bvh._depth_first(motion.skeleton))
    assert read.rate == 120
    assert str(read.timecode) == str(motion.timecode)
    order = [read.skeleton.names.index(n) for n in motion.skeleton.names]
    there, _ = read.skeleton.pose(read.local, read.root)
    here, places = motion.skeleton.pose(motion.local, motion.root)
    assert np.abs(np.sum(there[:, order] * here, axis=-1)).min() > 1 - 1e-6
    _, read_places = read.skeleton.pose(read.local, read.root)
    np.testing.assert_allclose(read_places[:, order], places, atol=1e-4)


def test_the_body_take_begins_in_a_t_pose():
    motion = move(2.5, parse_timecode("01:00:00:00", bvh.STANDARD_RATES[12]), 3)
    _, places = motion.skeleton.pose(motion.local[:1], motion.root[:1])
    shoulder, hand = (places[0, motion.skeleton.index(n)] for n in ("UpperArm_L", "Hand_L"))
    assert abs(hand[1] - shoulder[1]) < 0.02
    assert hand[0] - shoulder[0] > 0.4


@pytest.mark.parametrize("rate", ["120", "120000/1001", "60000/1001"])
def test_bvh_reads_a_count_that_is_one_number_from_midnight(rate):
    motion = move(1.0, parse_timecode("23:59:58:03", parse_rate(rate)), 3)
    label = f"# timecode {motion.timecode} rate {rate}".encode()
    counted = bvh.write(motion).replace(label, f"# timecode {motion.timecode.frames} rate {rate}".encode())
    assert bvh.read(counted).timecode == motion.timecode


def test_bvh_takes_a_count_without_a_rate_as_its_own_frames():
    motion = replace(move(1.0, parse_timecode("01:00:00:00", Fraction(120)), 3), rate=parse_rate("120000/1001"))
    counted = bvh.write(motion).replace(b"# timecode 01:00:00:000 rate 120", b"# timecode 432000")
    assert bvh.read(counted).timecode == Timecode(432_000, parse_rate("120000/1001"))
    with pytest.raises(InputError, match="beyond a day"):
        bvh.read(counted.replace(b"timecode 432000", b"timecode 10368000"))
    with pytest.raises(InputError, match="no timecode"):
        bvh.read(counted.replace(b"timecode 432000", b"timecode -4"))


BODY = bvh.write(move(1.0, parse_timecode("01:00:00:00", bvh.STANDARD_RATES[12]), 1)).decode()


@pytest.mark.parametrize(
    ("data", "says"),
    [
        (BODY[: len(BODY) // 2], "values where|says 120 frames"), (BODY[:300], "ends|stands where"), (BODY.replace("Frames: 120", "Frames: many"), "no number"),
        (BODY.replace("Frames: 120", "Frames: 200"), "says 200 frames, but 120"), (BODY.replace("Frames: 120", "Frames: 99999999"), "99999999 frames"),
        (BODY.replace("OFFSET", "OFFSIDE", 1), "OFFSIDE"), (BODY.replace("Zrotation", "Wrotation", 1), "no channel"),
        (BODY.replace("JOINT Chest", "JOINT Hips"), "twice"), (BODY.replace("Frame Time: 0.008333333", "Frame Time: 0"), "frame time is 0"),
        ("HIERARCHY\n", "ends where"), (BODY.split("MOTION")[0], "before MOTION"),
        (BODY.rsplit("\n", 3)[0] + " nan\n" + "\n".join(BODY.rsplit("\n", 3)[1:]), "values where|not finite|no number"),
    ],
)  # fmt: skip
def test_broken_bvhs_are_refused_with_the_line(data, says):
    with pytest.raises(InputError, match=says) as caught:
        bvh.read(data.encode())
    assert "line" in caught.value.where


def test_odile_has_all_shapes_on_separate_meshes_and_a_skeleton():
    odile = read_character(ODILE, "Odile")
    by_name = {m.mesh: m for m in odile.meshes}
    assert set(by_name) == {"face", "eyes", "lashes", "teethUpper", "teethLower", "tongue", "body"}
    assert len(by_name["face"].targets) == 52
    assert set(by_name["eyes"].joints) == {"eyeLeft", "eyeRight"}
    assert {"hips", "spine1", "neck1", "neck3", "head", "handLeft", "thumb1Left", "little3Right"} <= set(
        odile.skeleton.names
    )


def test_what_is_baked_is_what_was_performed_and_validates(tmp_path):
    odile = read_character(ODILE)
    face = channels(frames=40)
    motion = move(3.0, parse_timecode("01:00:00:00", bvh.STANDARD_RATES[12]), 2)
    made = perform_take(face, odile, CastSheet(), motion)
    baked = bake_glb(ODILE, made, {"timecode": "01:00:00:00"}, "test")
    frames = np.arange(0, 40, 3)
    read = sample_glb(baked, frames)
    for i, joint in enumerate(made.joints):
        np.testing.assert_allclose(read[(joint, "rotation")], made.local[frames, i], atol=1e-6)
    face_weights = read[("face", "weights")]
    column = odile.meshes[0].targets.index("jawOpen")
    np.testing.assert_allclose(
        face_weights[:, column], made.cast.weights[frames, made.cast.targets.index("jawOpen")], atol=1e-6
    )
    assert np.abs(read[("eyes", "weights")]).max() == 0
    path = tmp_path / "test.glb"
    path.write_bytes(baked)
    node = os.environ.get("DYNAFACE_NODE", "node")
    issues = json.loads(subprocess.run([node, str(VALIDATOR), str(path)], capture_output=True, check=True).stdout)
    assert issues["numErrors"] == 0, issues["messages"][:3]
    assert issues["numWarnings"] == 0, issues["messages"][:3]


@pytest.mark.parametrize("cut", [0, 3, 11, 19, 200, 5000, len(ODILE) // 2, len(ODILE) - 4])
def test_a_cut_glb_is_refused(cut):
    with pytest.raises(InputError):
        read_character(ODILE[:cut])


def test_a_damaged_glb_never_fails_in_other_ways():
    rng = np.random.default_rng(1)
    for _ in range(25):
        data = bytearray(ODILE)
        for at in rng.integers(12, 60000, 12):
            data[at] = rng.integers(0, 256)
        try:
            read_character(bytes(data))
        except DynafaceError as error:
            assert str(error)


def test_silence_is_told():
    assert wav.FORMAT.check(Sound(np.zeros((100, 1), np.float32), 8000))["notes"] == ["it is silent"]


def test_a_channel_with_linear_timecode_says_when_a_wav_begins_and_is_no_sound():
    start = parse_timecode("10:19:05:12", Fraction(25))
    code = ltc(start, 4, 48_000)
    voice = np.random.default_rng(1).uniform(-0.1, 0.1, len(code)).astype(np.float32)
    found = wav.read(wav.write(Sound(np.stack([voice, code], axis=1), 48_000)))
    assert str(found.timecode) == "10:19:05:12"
    assert found.samples.shape[1] == 1
    assert found.samples[:, 0] == pytest.approx(voice, abs=1e-4)
