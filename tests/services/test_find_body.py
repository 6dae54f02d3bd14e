"""Where the body of a take belongs, found on the real database."""

from dataclasses import replace
from fractions import Fraction

import numpy as np
import pytest

from dynaface.assets import ASSETS
from dynaface.core.clock.timecode import Timecode
from dynaface.core.errors import InputError, NotFoundError
from dynaface.formats.entries import bvh, wav
from dynaface.formats.entries.curve_table import write_table
from dynaface.services.edit_document import edit_document
from dynaface.services.take.find_body import find_body
from dynaface.services.take.import_take import import_take
from dynaface.services.take.open_take import open_take
from dynaface.services.take.prepare_take import prepare_take
from dynaface.sims.body_suit import move
from dynaface.sims.moment import clapped, clapping, heard, seen_by_camera, spoken_lines
from tests.conftest import stored
from tests.services.evaluated import put

LATER = 4.5  # seconds after the body at which the face begins
HALF_FRAME = 0.5 / 60


@pytest.fixture(scope="module")
def moment():
    """A body that claps, the head that a camera saw of it from 4.5 s on, and the sound of that time."""
    rng = np.random.default_rng(21)
    body = clapping(move(20, Timecode(0, Fraction(120)), 8), [7.0])
    face = seen_by_camera(body, LATER, 10, body.rate / 2, 0.2, rng)
    room, _ = spoken_lines(20, rng)
    sound = heard(clapped(room, [7.0], rng), LATER, 10, 48_000, 0, 0.003, rng)
    return body, face, sound


@pytest.fixture
def take(mara, production, moment):
    body, face, sound = moment
    jaw = np.full((face.frames, 1), 0.1, np.float32)
    table = replace(face, names=("jawOpen", *face.names), values=np.concatenate([jaw, face.values], axis=1))
    files = [
        stored(mara, write_table(table), "face.csv"),
        stored(mara, bvh.write(body), "body.bvh"),
        stored(mara, wav.write(sound), "sound.wav"),
    ]
    return import_take(mara, production, "4A", "Mara Quill", files)


def test_the_head_and_a_clap_say_where_the_body_begins(mara, take):
    fits = {f["how"]: f for f in find_body(mara, take.id)["fits"]}
    assert set(fits) == {"motion", "clap"}
    for how, fit in fits.items():
        assert fit["confident"], how
        assert fit["offset"] == pytest.approx(-LATER, abs=HALF_FRAME), how
        assert 0 < len(fit["lags"]) <= 600
        assert len(fit["lags"]) == len(fit["scores"])


def test_its_nudge_brings_the_body_there(mara, take):
    opened = open_take(mara, take.id)
    fit = find_body(mara, take.id)["fits"][0]
    edit_document(mara, opened.join.id, opened.join.version, "line up", [put("nudge", fit["nudge"])])
    prepared = prepare_take(mara, take.id)
    rate, settings = float(prepared.raw.rate), prepared.snapshot.join
    # The moment of the body that is seen at frame 0 of the face.
    assert -settings.nudge / rate == pytest.approx(LATER, abs=HALF_FRAME)


def test_a_sound_that_lies_later_is_counted(mara, take):
    found = open_take(mara, take.id).take
    edit_document(mara, take.id, found.version, "slide", [put("soundOffset", 0.5)])
    clap = next(f for f in find_body(mara, take.id)["fits"] if f["how"] == "clap")
    assert clap["offset"] == pytest.approx(-LATER + 0.5, abs=HALF_FRAME)


def test_what_says_nothing_is_said(mara, stranger, production, take):
    lamp = [stored(mara, (ASSETS / "demo" / n).read_bytes(), n) for n in ("mara_lamp.csv", "mara_lamp_body.bvh")]
    silent = import_take(mara, production, "4B", "Mara Quill", lamp)
    found = find_body(mara, silent.id)
    assert [w["how"] for w in found["silent"]] == ["clap"]
    assert "no sound" in found["silent"][0]["why"]
    bare = import_take(mara, production, "4C", "Mara Quill", lamp[:1])
    with pytest.raises(InputError, match="no body"):
        find_body(mara, bare.id)
    with pytest.raises(NotFoundError):
        find_body(stranger, take.id)
