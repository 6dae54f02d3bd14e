"""Movies and stills, decoded again."""

import itertools
from dataclasses import replace
from fractions import Fraction

import cv2
import numpy as np
import pytest

from dynaface.core.errors import CancelledError
from dynaface.core.handover.delivery import Film
from dynaface.core.picture.draw import Lights
from dynaface.core.sound.sound import Sound
from dynaface.formats.catalogue import HANDOVERS
from dynaface.formats.entries import video
from dynaface.formats.filmed import Actor, cameras, picture

MOVIE, STILLS = HANDOVERS["movie"], HANDOVERS["stills"]


def quiet(part, message):
    return None


def small(**more):
    return MOVIE.complete({"size": "640 x 360", **more})


def test_a_movie_has_its_frames_its_sound_and_its_count(delivered):
    delivery, told = delivered("odile", rate="30"), []
    files = MOVIE.write(delivery, small(), lambda part, words: told.append(part))
    assert all(c.ok for c in MOVIE.check(files, delivery, small(), ""))
    read = video.read(files["shot.mp4"])
    assert (read.width, read.height, read.frames, read.rate) == (640, 360, 20, 30)
    # The count at 29.97 without drop falls behind the day; at 30 it says the same moment.
    assert str(read.timecode) == "10:00:36:03"
    assert video.sound_of(files["shot.mp4"]).seconds == pytest.approx(20 / 30, abs=0.05)
    assert told == sorted(told)
    assert told


def test_it_can_be_stopped_while_it_is_drawn(delivered):
    def stop(part, message):
        raise CancelledError("stopped")

    with pytest.raises(CancelledError):
        MOVIE.write(delivered("odile"), small(), stop)


def test_what_it_shows_is_burnt_in_or_not(delivered):
    delivery = delivered("kettle", rate="24", last=11)
    strips = []
    for burnt in ("nothing", "name, timecode and frame"):
        files = MOVIE.write(delivery, small(burnt=burnt), quiet)
        strips.append(next(video.read(files["shot.mp4"]).pictures())[-18:, :120])
    assert strips[0].max() < 120 < strips[1].max()


def test_the_footage_stands_beside_it_at_its_own_moments(delivered):
    """Each picture of the footage is as bright as its number; the first frame is its tenth."""
    pictures = (np.full((90, 120, 3), 5 * n, np.uint8) for n in range(40))
    footage = video.read(video.encode(pictures, Fraction(30), quality=4))
    delivery = delivered("odile", rate="30", last=20)
    delivery = replace(delivery, film=Film(footage, 10 / 30))
    files = MOVIE.write(delivery, small(beside="the footage", burnt="nothing"), quiet)
    read = video.read(files["shot.mp4"])
    assert read.width == 640 + 480
    for number, shown in enumerate(itertools.islice(read.pictures(), 10)):
        assert shown[100:200, 100:300].mean() == pytest.approx(5 * (10 + number), abs=3)


def test_a_movie_that_shows_something_else_is_not_called_right(delivered):
    files = MOVIE.write(delivered("odile", rate="24"), small(), quiet)
    found = MOVIE.check(files, delivered("brindle", rate="24"), small(), "")
    assert not next(c for c in found if "shows what" in c.what).ok


def test_stills_are_spread_evenly(delivered):
    delivery = delivered("brindle")
    settings = STILLS.complete({"count": 3, "size": "1280 x 720"})
    files = STILLS.write(delivery, settings, quiet)
    assert list(files) == ["shot_00006.png", "shot_00020.png", "shot_00033.png"]
    assert all(c.ok for c in STILLS.check(files, delivery, settings, ""))
    one = cv2.imdecode(np.frombuffer(files["shot_00006.png"], np.uint8), cv2.IMREAD_COLOR)
    assert one.shape == (720, 1280, 3)


def test_a_mouth_that_opens_is_seen_to_open(played, delivered):
    """Between the lips it is darker than they are; the rest of the picture stays as it is."""
    figure = delivered("odile").first
    made = figure.performance
    jaw = made.cast.targets.index("jawOpen")
    pictures = []
    for value in (0.0, 1.0):
        weights = np.zeros_like(made.cast.weights)
        weights[:, jaw] = value
        still = replace(made.rows(slice(0, 1)), local=made.local[:1])
        posed = replace(still, cast=replace(still.cast, weights=weights[:1]))
        actor = (Actor(replace(figure, performance=posed)),)
        pictures.append(picture(actor, 0, cameras(actor, "face", (320, 180))[0], Lights()).astype(int))
    apart = np.abs(pictures[1] - pictures[0]).sum(axis=2)
    assert apart.max() > 60
    assert (apart > 30).mean() < 0.1


def test_sound_and_picture_stay_together_over_ten_minutes():
    """A flash and a beep at the beginning and ten minutes later, at a rate that is no whole number."""
    rate, sound_rate, seconds = Fraction(30_000, 1001), 16_000, 601
    moments = (0, 600)
    samples = np.zeros((seconds * sound_rate, 1), np.float32)
    for at in moments:
        samples[at * sound_rate : at * sound_rate + 800, 0] = 0.9 * np.sin(np.arange(800) * 0.4)
    count = int(seconds * rate)
    flashes = {round(at * rate) for at in moments}
    pictures = (np.full((32, 48, 3), 255 if n in flashes else 0, np.uint8) for n in range(count))
    data = video.encode(pictures, rate, group=300, sound=Sound(samples, sound_rate))
    read = video.read(data)
    seen = [float(t) for t, p in zip(read.times, read.pictures(), strict=False) if p.mean() > 128]
    heard = video.sound_of(data)
    loud = np.abs(heard.samples[:, 0]) > 0.3
    for flash, at in zip(seen, moments, strict=True):
        near = np.flatnonzero(loud[max(int((at - 1) * heard.rate), 0) : int((at + 1) * heard.rate)])
        begins = near[0] / heard.rate + max(at - 1, 0)
        assert abs((flash - read.times[0]) - begins) < 1 / float(rate)
