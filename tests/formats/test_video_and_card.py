"""Video and performer cards: round trips and hostile files."""

import base64
import io
import json
from dataclasses import replace
from fractions import Fraction

import av
import numpy as np
import pytest

from dynaface.assets import ASSETS
from dynaface.core.errors import InputError, LimitError
from dynaface.formats.card_file import read_card, write_card
from dynaface.formats.entries import video, wav
from dynaface.formats.head_file import general_head
from tests.makers import noise_film, tone

CARD = ASSETS / "demo/mara_card.json"


def written(
    frames=20, size=(64, 48), rate=25, codec="libx264", container="mp4", times=None, audio=False, metadata=None
):
    """A clip in any container and codec."""
    out = io.BytesIO()
    rng = np.random.default_rng(1)
    with av.open(out, "w", format=container) as made:
        stream = made.add_stream(codec, rate=rate)
        stream.width, stream.height = size
        stream.pix_fmt = "yuvj420p" if codec == "mjpeg" else "yuv420p"
        stream.time_base = Fraction(1, 1000)
        stream.codec_context.time_base = Fraction(1, 1000) if times is not None else Fraction(1, rate)
        made.metadata.update(metadata or {})
        sound = made.add_stream("aac", rate=16000) if audio else None
        for number in range(frames):
            picture = rng.integers(0, 255, (size[1], size[0], 3), np.uint8)
            picture[:, :, 0] = number * 5
            frame = av.VideoFrame.from_ndarray(picture, "rgb24")
            if times is not None:
                frame.pts, frame.time_base = round(times[number] * 1000), Fraction(1, 1000)
            for packet in stream.encode(frame):
                made.mux(packet)
        for packet in stream.encode():
            made.mux(packet)
        if sound:
            samples = (tone(1.0).samples.T * 0.5).astype(np.float32)
            frame = av.AudioFrame.from_ndarray(samples, "fltp", "mono")
            frame.rate = 16000
            for packet in [*sound.encode(frame), *sound.encode()]:
                made.mux(packet)
    return out.getvalue()


@pytest.mark.parametrize(
    ("container", "codec"),
    [("mp4", "libx264"), ("matroska", "libx264"), ("webm", "libvpx-vp9"), ("avi", "mjpeg"), ("mov", "mjpeg")],
)
def test_containers_and_codecs_are_read(container, codec):
    found = video.read(written(container=container, codec=codec))
    assert (found.width, found.height, found.frames) == (64, 48, 20)
    assert float(found.rate) == pytest.approx(25)
    assert sum(1 for _ in found.pictures()) == 20
    assert next(found.pictures()).shape == (48, 64, 3)


def test_what_is_written_is_read():
    found = video.read(noise_film(frames=12, rate=30))
    assert (found.frames, found.rate, found.sound) == (12, 30, False)
    assert found.seconds == pytest.approx(0.4)
    assert "notes" in video.FORMAT.check(found)


def test_pictures_that_come_unevenly_are_told():
    found = video.read(written(frames=6, container="matroska", times=[0, 0.04, 0.08, 0.30, 0.34, 0.38]))
    assert found.times == pytest.approx([0, 0.04, 0.08, 0.30, 0.34, 0.38], abs=2e-3)
    assert any("unevenly" in n for n in video.FORMAT.check(found)["notes"])


def test_few_pictures_a_second_are_told():
    found = video.read(noise_film(frames=10, rate=10))
    assert any("fewer than 20" in n for n in video.FORMAT.check(found)["notes"])


def test_one_picture_is_a_clip():
    found = video.read(noise_film(frames=1))
    assert found.frames == 1
    assert len(list(found.pictures())) == 1


def test_sound_comes_out_of_a_clip():
    raw = written(audio=True)
    assert video.read(raw).sound
    sound = video.sound_of(raw)
    assert sound.rate == 16000
    assert sound.seconds == pytest.approx(1.0, abs=0.15)
    assert np.abs(sound.samples).max() > 0.1
    with pytest.raises(InputError, match="no sound"):
        video.sound_of(noise_film())


def test_sound_alone_is_no_footage():
    out = io.BytesIO()
    with av.open(out, "w", format="mp4") as made:
        stream = made.add_stream("aac", rate=16000)
        frame = av.AudioFrame.from_ndarray(tone(0.5).samples.T.astype(np.float32), "fltp", "mono")
        frame.rate = 16000
        for packet in [*stream.encode(frame), *stream.encode()]:
            made.mux(packet)
    with pytest.raises(InputError, match="only sound"):
        video.read(out.getvalue())


def test_a_header_that_says_a_hundred_thousand_pixels_is_refused():
    raw = bytearray(written(container="avi", codec="rawvideo"))
    at = raw.index(b"strf") + 8
    raw[at + 4 : at + 12] = (100_000).to_bytes(4, "little") * 2
    with pytest.raises((LimitError, InputError)):
        video.read(bytes(raw))


def test_what_is_too_small_is_refused():
    with pytest.raises(LimitError, match="8 x 8"):
        video.read(written(size=(8, 8), container="avi", codec="mjpeg"))


@pytest.mark.parametrize("share", [0.02, 0.3, 0.6, 0.9])
def test_a_cut_clip_is_refused_or_read_as_far_as_it_goes(share):
    for raw in (noise_film(), written(container="matroska")):
        try:
            found = video.read(raw[: int(len(raw) * share)])
        except InputError as error:
            assert error.hint
        else:
            assert len(list(found.pictures())) <= found.frames


@pytest.mark.parametrize(
    "raw", [b"", b"\x00\x00\x00\x20ftypisom" + b"\x00" * 400, b"\x1a\x45\xdf\xa3" + b"\xff" * 300, wav.write(tone(0.1))]
)
def test_what_is_no_video_is_refused_with_a_message(raw):
    with pytest.raises(InputError):
        video.read(raw)


def test_a_card_comes_back_as_it_was():
    card = read_card(CARD.read_bytes(), general_head())
    again = read_card(write_card(card), general_head())
    assert again.size == card.size
    assert again.fov == card.fov
    assert again.shapes == pytest.approx(card.shapes, abs=1e-5)
    assert again.features.basis == pytest.approx(card.features.basis, abs=1e-4)
    assert (again.sampled == card.sampled).all()
    assert card.sampled.sum() > 45
    assert read_card(write_card(replace(card, eyeball=0.0149)), general_head()).eyeball == pytest.approx(0.0149)


@pytest.mark.parametrize("radius", [0.0, 1.0, np.nan])
def test_a_card_with_eyeballs_that_cannot_be_is_refused(radius):
    card = read_card(CARD.read_bytes(), general_head())
    with pytest.raises(InputError, match="eyeballs"):
        read_card(write_card(replace(card, eyeball=radius)), general_head())


def damaged(change):
    given = json.loads(CARD.read_bytes())
    change(given)
    return json.dumps(given).encode()


def without(name):
    def change(given):
        with np.load(io.BytesIO(base64.b64decode(given["arrays"]))) as packed:
            arrays = {n: packed[n] for n in packed.files if n != name}
        out = io.BytesIO()
        np.savez_compressed(out, **arrays)
        given["arrays"] = base64.b64encode(out.getvalue()).decode()

    return change


@pytest.mark.parametrize("raw", [
    b"", b"{}", b"[]", b"\xff\xfe", b'{"dynafaceCard": 2}',
    damaged(lambda g: g.pop("arrays")),
    damaged(lambda g: g.update(arrays=g["arrays"][:5000])),
    damaged(lambda g: g.update(arrays="!!" + g["arrays"])),
    damaged(lambda g: g.update(size=[1, 2])),
    damaged(lambda g: g.update(size="wide")),
    damaged(lambda g: g.update(fov=1e9)),
    damaged(without("shapes")),
    damaged(without("looks")),
])  # fmt: skip
def test_a_damaged_card_is_refused_with_a_message(raw):
    with pytest.raises(InputError):
        read_card(raw, general_head())
