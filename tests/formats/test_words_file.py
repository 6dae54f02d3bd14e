"""words.json and `dynaface speak`: a voice and its text to curves, on files."""

import json

import numpy as np
import pytest

from dynaface.assets import ASSETS
from dynaface.cli import main
from dynaface.core.errors import DynafaceError, InputError, LimitError
from dynaface.core.sound.sound import Sound
from dynaface.formats.entries import wav
from dynaface.formats.entries.curve_table import table_to_channels
from dynaface.formats.words_file import read_words, write_words
from dynaface.pipelines.find_words import LANGUAGES, find_words
from dynaface.pipelines.speaker import speak

VOICE = ASSETS / "demo" / "ivo_hush.wav"
TEXT = "Hush. Something moved by the moorings."


def spoken(folder, *more):
    (folder / "line.txt").write_text(TEXT)
    main(["speak", str(VOICE), "--out", str(folder / "out.csv"), "--words", str(folder / "words.json"), *more])
    return table_to_channels((folder / "out.csv").read_bytes()), json.loads((folder / "words.json").read_text())[
        "words"
    ]


def test_a_voice_and_its_text_become_curves_and_words(tmp_path, capsys):
    made, words = spoken(tmp_path, "--text", str(tmp_path / "line.txt"), "--rate", "30")
    assert [w["word"] for w in words] == ["Hush", "Something", "moved", "by", "the", "moorings"]
    assert made.rate == 30
    assert made.column("jawOpen").max() > 0.2
    moved = next(w for w in words if w["word"] == "moved")
    closed = next(p for p in moved["phones"] if p["phone"] == "M")
    middle = round((closed["first"] + closed["last"]) / 2 * 30)
    assert made.column("jawOpen")[middle] - made.column("mouthClose")[middle] < 0.05
    assert "6 words" in capsys.readouterr().out


def test_words_that_were_corrected_are_taken_in_place_of_a_text(tmp_path):
    _, words = spoken(tmp_path, "--text", str(tmp_path / "line.txt"))
    for word in words:
        for timed in (word, *word["phones"]):
            timed["first"], timed["last"] = timed["first"] + 0.5, timed["last"] + 0.5
    (tmp_path / "later.json").write_text(json.dumps({"words": words}))
    one, _ = spoken(tmp_path, "--text", str(tmp_path / "line.txt"))
    other, again = spoken(tmp_path, "--known", str(tmp_path / "later.json"))
    assert again[0]["first"] == words[0]["first"]
    np.testing.assert_allclose(other.column("jawOpen")[90:300], one.column("jawOpen")[60:270], atol=2e-3)


def test_without_a_text_it_guesses_and_says_so(tmp_path, capsys):
    made, words = spoken(tmp_path)
    assert "rough" in capsys.readouterr().out
    assert words
    assert made.column("jawOpen").max() > 0.1


def test_words_go_through_their_file():
    words = find_words(wav.read(VOICE.read_bytes()), TEXT)
    again = read_words(write_words(words), "words.json")
    assert [w.word for w in again] == [w.word for w in words]
    assert [p.name for w in again for p in w.phones] == [p.name for w in words for p in w.phones]
    np.testing.assert_allclose([w.first for w in again], [w.first for w in words], atol=1e-4)


@pytest.mark.parametrize("language", ["en", "de", "es", "fr"])
def test_words_are_found_in_another_voice_of_the_language(language):
    text = {
        "en": "The small boat waits.",
        "de": "Das kleine Boot wartet.",
        "es": "El barco viejo espera.",
        "fr": "Le petit bateau attend.",
    }
    said = speak(text[language], f"{LANGUAGES[language][0]}+m5", 140)
    quiet = np.zeros((int(0.5 * said.sound.rate), 1), np.float32)
    found = find_words(
        Sound(np.concatenate([quiet, said.sound.samples, quiet]), said.sound.rate), text[language], language
    )
    assert [w.word for w in found] == [w.word for w in said.words]
    assert np.median([abs(f.first - 0.5 - t.first) for f, t in zip(found, said.words, strict=True)]) < 0.045


def test_what_is_written_is_what_is_told():
    words = speak("Do you know the pilot's 2 boats? She would have gone — not at all.", "en-us").words
    assert [w.word for w in words] == [
        "Do",
        "you",
        "know",
        "the",
        "pilot's",
        "2",
        "boats",
        "She",
        "would",
        "have",
        "gone",
        "not",
        "at",
        "all",
    ]
    assert all(a.last <= b.first + 1e-9 for a, b in zip(words, words[1:], strict=False))
    assert all(w.phones for w in words)


@pytest.mark.parametrize(
    ("sound", "text", "language", "kind"),
    [(np.zeros(16_000), "a word", "en", InputError), (np.ones(16_000) * 0.1, "...", "en", InputError), (np.ones(16_000) * 0.1, "", "en", InputError),
     (np.ones(16_000) * 0.1, "a word", "xx", InputError), (np.zeros(0), "a word", "en", InputError), (np.ones(8000 * 301) * 0.1, "a word", "en", LimitError)],
)  # fmt: skip
def test_what_cannot_be_heard_is_refused(sound, text, language, kind):
    with pytest.raises(kind):
        find_words(Sound(sound.astype(np.float32)[:, None], 8000), text, language)


def test_a_voice_that_is_not_there_is_refused():
    with pytest.raises(InputError, match="no voice"):
        speak("a word", "xx-nowhere")


@pytest.mark.parametrize(
    "data",
    [b"", b"[]", b"{}", b'{"words": [{"word": "a", "first": 2, "last": 1}]}', b'{"words": [{"word": "a", "first": 0, "last": 1e9}]}',
     b'{"words": [{"word": "a", "first": 0, "last": 1, "phones": [{"phone": "QQ", "first": 0, "last": 1}]}]}', b'{"words": [1]}'],
)  # fmt: skip
def test_damaged_words_are_refused(data):
    with pytest.raises(DynafaceError):
        read_words(data, "words.json")
