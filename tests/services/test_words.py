"""Words of a take's sound; what they lead in a shot; a take of sound alone with a face."""

import json
from fractions import Fraction

import numpy as np
import pytest

from dynaface.assets import ASSETS
from dynaface.core.curves.keys import evaluate_keys
from dynaface.core.documents.model.words import WordsBody
from dynaface.core.errors import InputError, NotFoundError
from dynaface.jobs.run_job import run_job
from dynaface.services.edit_document import edit_document, undo
from dynaface.services.jobs.follow_jobs import list_jobs
from dynaface.services.shot.cut_shot import Cut, cut_shot
from dynaface.services.shot.evaluate_shot import prepare_role
from dynaface.services.shot.make_shot import add_layer, list_shots, make_shot
from dynaface.services.shot.open_shot import open_shot
from dynaface.services.shot.shot_sound import let_sound_go
from dynaface.services.shot.surroundings import words_of_role
from dynaface.services.speech.find_words import request_words
from dynaface.services.speech.give_face import request_face
from dynaface.services.speech.lead_words import Leading, lead_capture, lead_words
from dynaface.services.take.import_take import import_take
from tests.services.evaluated import put
from tests.services.test_shots import demo, first_role

TEXT = "The lamp burns low before the morning boat."


def done(work, job):
    run_job(work, job.id)
    found = next(j for j in list_jobs(work, job.production) if j.id == job.id)
    assert found.state == "done", found.message
    return found.result


@pytest.fixture
def take(mara, production):
    return import_take(mara, production, "4A", "Mara Quill", [demo(mara, "mara_lamp.csv"), demo(mara, "mara_lamp.wav")])


@pytest.fixture
def said(mara, take):
    done(mara, request_words(mara, take.id, TEXT, "en"))
    return take


@pytest.fixture
def shot(mara, production, said):
    return make_shot(mara, production, "Ferry landing", takes=[said.id])


def words_in(work, shot):
    prepared = prepare_role(work, shot.id, first_role(shot))
    return words_of_role(prepared.snapshot.documents, first_role(shot))


def test_words_of_a_sound_are_found_in_order_within_it(mara, shot):
    (words,) = open_shot(mara, shot.id).words
    assert [w.word for w in words.body.spoken] == TEXT.rstrip(".").split()
    assert words.body.text == TEXT
    said = json.loads((ASSETS / "demo" / "lines.json").read_text())[0]
    assert 0.5 < words.body.spoken[0].first < words.body.spoken[-1].last < said["seconds"] + 0.5


def test_words_that_are_found_again_take_the_place_of_the_old_and_are_undone(mara, shot, said):
    (before,) = open_shot(mara, shot.id).words
    done(mara, request_words(mara, said.id, "The lamp burns low", "en"))
    (after,) = open_shot(mara, shot.id).words
    assert after.id == before.id
    assert len(after.body.words) == 4
    undo(mara, [after.id])
    assert len(open_shot(mara, shot.id).words[0].body.words) == 8


def test_a_word_that_is_dragged_takes_its_phones_along_and_all_that_follows_from_it(mara, shot):
    role = first_role(shot)
    layer = add_layer(mara, shot.id, role, "mouth", "add", [])
    edit_document(mara, layer.id, layer.version, "speak", [put("makers/s", {"maker": "speech", "rank": 1.0})])
    before = prepare_role(mara, shot.id, role).graph.tidied.result(mara.cache).column("jawOpen").copy()
    (words,) = open_shot(mara, shot.id).words
    last = sorted(words.body.words, key=lambda k: words.body.words[k].first)[-1]
    entry = words.body.words[last]
    edit_document(
        mara,
        words.id,
        words.version,
        "drag",
        [put(f"words/{last}/first", entry.first + 0.1), put(f"words/{last}/last", entry.last + 0.3)],
    )
    moved = words_in(mara, shot)[-1]
    assert moved.phones[0].first == pytest.approx(moved.first)
    assert moved.phones[-1].last == pytest.approx(moved.last)
    after = prepare_role(mara, shot.id, role).graph.tidied.result(mara.cache).column("jawOpen")
    assert not np.array_equal(before, after)
    np.testing.assert_allclose(before[: int(entry.first * 60) - 30], after[: int(entry.first * 60) - 30], atol=2e-3)


def test_words_go_with_their_clip_and_with_the_sound_that_is_let_go(mara, shot):
    role = first_role(shot)
    (key,) = shot.body.roles[role].placements
    at = words_in(mara, shot)[0].first
    path = f"roles/{role}/placements/{key}"
    later = edit_document(
        mara, shot.id, shot.version, "later and slower", [put(f"{path}/start", "2"), put(f"{path}/speed", "1/2")]
    )
    assert words_in(mara, later)[0].first == pytest.approx(2 + 2 * at, abs=1e-6)
    free = let_sound_go(mara, shot.id, later.version, role, key)
    assert words_in(mara, free)[0].first == pytest.approx(2 + 2 * at, abs=1e-6)
    (sound,), before = free.body.sounds, words_in(mara, free)[0].first
    moved = edit_document(mara, shot.id, free.version, "move the sound", [put(f"sounds/{sound}/start", "0")])
    assert words_in(mara, moved)[0].first == pytest.approx(before - 2, abs=1e-3)


def test_what_is_cut_away_is_not_said(mara, shot):
    role = first_role(shot)
    (key,) = shot.body.roles[role].placements
    words = words_in(mara, shot)
    at = Fraction(words[3].last + 0.01).limit_denominator(1000)
    halves = cut_shot(mara, shot.id, shot.version, "split", Cut("split", role, key, at))
    second = next(k for k, p in halves.body.roles[role].placements.items() if Fraction(p.start) == at)
    left = edit_document(mara, shot.id, halves.version, "mute", [put(f"roles/{role}/placements/{second}/mute", True)])
    assert [w.word for w in words_in(mara, left)] == [w.word for w in words[:4]]


def weight(shot, role, region):
    own = shot.body.roles[role].capture[region].weight
    return evaluate_keys(own.keys, shot.body.frames)


def test_words_lead_and_nothing_else_changes(mara, shot):
    role = first_role(shot)
    led = lead_words(mara, shot.id, shot.version, role, ["lips", "jaw"], Leading(0.2, 0.1, 0.1))
    words = words_in(mara, led)
    curve = weight(led, role, "lips")
    middle = [round((w.first + w.last) / 2 * 60) for w in words]
    assert curve[middle] == pytest.approx([0.2] * len(words), abs=1e-5)
    assert curve[0] == curve[-1] == 1.0
    assert set(led.body.roles[role].capture) == {"lips", "jaw"}
    undo(mara, [shot.id])
    assert not open_shot(mara, shot.id).shot.body.roles[role].capture


def test_words_of_a_range_lead_and_keys_elsewhere_stay(mara, shot):
    role = first_role(shot)
    keyed = edit_document(mara, shot.id, shot.version, "weigh", [
        put(f"roles/{role}/capture/jaw", {"value": 1.0, "keys": {"far": [0.0, 0.8, 0.0, 0.0, "linear"]}})])  # fmt: skip
    word = words_in(mara, keyed)[5]
    within = (round(word.first * 60), round(word.last * 60))
    led = lead_words(mara, shot.id, keyed.version, role, ["jaw"], Leading(0.3, 0.05, 0.05, "word", within))
    curve = weight(led, role, "jaw")
    assert "far" in led.body.roles[role].capture["jaw"].keys
    assert curve[0] == pytest.approx(0.8)
    assert curve[round((word.first + word.last) * 30)] == pytest.approx(0.3, abs=1e-5)
    assert curve[-1] == pytest.approx(0.8, abs=1e-5)


def test_the_capture_leads_the_other_way_round(mara, shot):
    layer = add_layer(mara, shot.id, first_role(shot), "mouth", "add", [])
    led = lead_capture(mara, layer.id, layer.version, Leading(0.0, 0.1, 0.1))
    word = words_in(mara, shot)[2]
    assert led.body.weight.weight.at(shot.body.frames)[round((word.first + word.last) * 30)] == pytest.approx(
        0, abs=1e-5
    )


@pytest.mark.parametrize(
    ("regions", "leading", "kind"),
    [(["hair"], Leading(0.2, 0.1, 0.1), InputError), ([], Leading(0.2, 0.1, 0.1), InputError), (["lips"], Leading(0.2, 0.1, 0.1, "letter"), InputError),
     (["lips"], Leading(0.2, 0.1, 0.1, "word", (0, 1)), InputError)],
)  # fmt: skip
def test_words_that_cannot_lead_are_refused(mara, shot, regions, leading, kind):
    with pytest.raises(kind):
        lead_words(mara, shot.id, shot.version, first_role(shot), regions, leading)
    with pytest.raises(NotFoundError):
        lead_words(mara, shot.id, shot.version, "nobody", ["lips"], Leading(0.2, 0.1, 0.1))


def test_a_take_without_sound_has_no_words(mara, production):
    silent = import_take(mara, production, "9", "Mara Quill", [demo(mara, "mara_lamp.csv")])
    with pytest.raises(InputError, match="no sound"):
        request_words(mara, silent.id, TEXT, "en")
    with pytest.raises(InputError, match="language"):
        request_words(mara, silent.id, TEXT, "xx")


def test_a_take_of_sound_alone_gets_a_face_in_one_action(mara, production):
    heard = import_take(mara, production, "12", "Mara Quill", [demo(mara, "mara_lamp.wav")])
    result = done(mara, request_face(mara, heard.id, TEXT, "en"))
    opened = open_shot(mara, result["shot"])
    assert [n.body.name for n in opened.layers] == ["mouth", "eyes", "alive"]
    role = first_role(opened.shot)
    made = prepare_role(mara, opened.shot.id, role).graph.tidied.result(mara.cache)
    words = words_in(mara, opened.shot)
    assert [w.word for w in words] == TEXT.rstrip(".").split()
    lamp = next(w for w in words if w.word == "lamp")
    jaw = made.column("jawOpen")
    assert jaw[round(lamp.first * 60) : round(lamp.last * 60)].max() > 0.15
    assert jaw[:20].max() < 0.05
    assert made.column("eyeBlinkLeft").max() > 0.8
    with pytest.raises(InputError, match="a face already"):
        request_face(mara, heard.id, TEXT, "en")


def test_a_face_that_was_cut_off_is_taken_up_where_it_stood(mara, production, monkeypatch):
    from dynaface.services.speech import give_face

    heard = import_take(mara, production, "12", "Mara Quill", [demo(mara, "mara_lamp.wav")])
    job = request_face(mara, heard.id, TEXT, "en")
    whole = give_face._layers
    monkeypatch.setattr(give_face, "_layers", lambda *_: (_ for _ in ()).throw(RuntimeError("killed")))
    with pytest.raises(RuntimeError):
        give_face.make_face(mara, job, lambda *_: None)
    monkeypatch.setattr(give_face, "_layers", whole)
    result = give_face.make_face(mara, job, lambda *_: None)
    assert [s["id"] for s in list_shots(mara, production)] == [result["shot"]]
    assert len(open_shot(mara, result["shot"]).layers) == 3
    again = give_face.make_face(mara, job, lambda *_: None)
    assert again["shot"] == result["shot"]
    assert len(open_shot(mara, result["shot"]).layers) == 3


def test_without_a_text_words_are_guessed(mara, production, take):
    assert done(mara, request_words(mara, take.id, "", "en"))["words"] >= 1
    shot = make_shot(mara, production, "Guessed", takes=[take.id])
    assert words_in(mara, shot)


def test_words_belong_to_one_sound_for_good(mara, shot):
    (words,) = open_shot(mara, shot.id).words
    with pytest.raises(InputError):
        edit_document(mara, words.id, words.version, "another", [put("sound", words.id)])
    with pytest.raises(InputError):
        edit_document(mara, words.id, words.version, "backwards", [put("words/w0000/last", -1.0)])
    assert isinstance(words.body, WordsBody)
