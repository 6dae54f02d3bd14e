"""Voice and text to words and phones with their times."""

import re

import numpy as np

from dynaface.core import checks
from dynaface.core.errors import InputError, LimitError
from dynaface.core.sound.sound import Sound
from dynaface.core.speech.carry import carry
from dynaface.core.speech.cepstra import Cepstra, cepstra, heard_at
from dynaface.core.speech.loudness import with_loudness
from dynaface.core.speech.words import Word
from dynaface.pipelines.progress import Progress, quiet
from dynaface.pipelines.speaker import speak

LANGUAGES = {
    "en": ("en-us", "en-us+f3"),
    "de": ("de", "de+f2"),
    "es": ("es", "es+f2"),
    "fr": ("fr", "fr+f2"),
    "it": ("it", "it+f2"),
    "pt": ("pt", "pt+f2"),
    "nl": ("nl", "nl+f2"),
    "pl": ("pl", "pl+f2"),
    "sv": ("sv", "sv+f2"),
    "fi": ("fi", "fi+f2"),
    "cs": ("cs", "cs+f2"),
    "tr": ("tr", "tr+f2"),
}
"""Codes of languages with the voices that a text is spoken in; the one that is most like the voice that is heard counts."""
LONGEST = 300.0  # seconds
USUAL = 160  # words a minute


def find_words(sound: Sound, text: str, language: str = "en", progress: Progress = quiet) -> list[Word]:
    """The words of a text with the times at which a voice says them, in seconds of the sound. Raises InputError for a text without
    words, a language that is not known, or a sound in which nobody speaks.
    """
    voices = LANGUAGES[checks.one_of("language", language, LANGUAGES)]
    said = " ".join(text.split())
    if not re.search(r"\w", said):
        raise InputError("the text holds no word", hint="Write what is said")
    if sound.seconds > LONGEST:
        raise LimitError(f"the sound lasts {sound.seconds:.0f} s", hint=f"At most {LONGEST:.0f} s are looked at")
    samples = heard_at(sound)
    if not len(samples) or float(np.abs(samples).max()) < 1e-4:
        raise InputError("nothing is heard in this sound")
    heard = cepstra(samples)
    found = []
    for number, voice in enumerate(voices):
        progress(number / len(voices), f"listening for {len(said.split())} words")
        found.append(_carried(heard, said, voice))
    words, _ = min(found, key=lambda pair: pair[1])
    return with_loudness(words, sound)


def _carried(heard: Cepstra, text: str, voice: str) -> tuple[list[Word], float]:
    """Words by a voice that says the text about as fast as it is heard, and how unlike the two are."""
    speed = USUAL
    for _ in range(2):
        spoken = speak(text, voice, speed)
        if not spoken.words:
            raise InputError(
                "the synthesiser says nothing for this text", hint="Write it in the letters of its language"
            )
        words, cost = carry(spoken.words, cepstra(heard_at(spoken.sound)), heard)
        ratio = _length(list(spoken.words)) / max(_length(words), 0.05)
        if abs(ratio - 1) < 0.08:
            break
        speed = round(speed * ratio)
    return words, cost


def _length(words: list[Word]) -> float:
    """Seconds that are spoken, pauses left out."""
    return sum(w.last - w.first for w in words)
