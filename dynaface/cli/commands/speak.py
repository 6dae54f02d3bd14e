"""`dynaface speak`."""

import argparse
from fractions import Fraction
from pathlib import Path

import numpy as np

from dynaface.cli.command import Command
from dynaface.core.clock.rates import parse_rate
from dynaface.core.curves.channels import Channels
from dynaface.core.errors import InputError
from dynaface.core.shapes.standard import CHANNELS
from dynaface.core.speech.guess import guess_words
from dynaface.core.speech.mouth import Style, mouth
from dynaface.formats.entries import wav
from dynaface.formats.entries.curve_table import write_table
from dynaface.formats.words_file import read_words, write_words
from dynaface.pipelines.find_words import LANGUAGES, find_words


def arguments(one: argparse.ArgumentParser) -> None:
    """Adds its arguments."""
    one.add_argument("voice", type=Path, help="a voice (WAV)")
    one.add_argument("--text", type=Path, help="what it says; without it vowels are guessed, which is rough")
    one.add_argument("--known", type=Path, help="words with their times (words.json), in place of a text")
    one.add_argument("--language", default="en", choices=sorted(LANGUAGES), help="of the text (default en)")
    one.add_argument("--rate", default="60", help="frames a second (default 60)")
    one.add_argument("--jaw", type=float, default=1.0, help="how far the jaw goes, 0..2")
    one.add_argument("--lips", type=float, default=1.0, help="how far the lips go, 0..2")
    one.add_argument("--words", type=Path, help="write the words and phones with their times here (JSON)")
    one.add_argument("--out", type=Path, required=True, help="the curve table to write")


def run(options: argparse.Namespace) -> None:
    """Writes what a mouth does for a voice."""
    rate: Fraction = parse_rate(options.rate)
    sound = wav.read(options.voice.read_bytes())
    if options.known:
        words = read_words(options.known.read_bytes(), options.known.name)
    elif options.text:
        words = find_words(sound, options.text.read_text("utf-8", "replace"), options.language)
    else:
        words = guess_words(sound)
        print("no text: vowels and pauses are guessed from the sound, which is rough")
    if not words:
        raise InputError("nothing is said in this sound", hint="Give its text")
    frames = max(int(sound.seconds * rate), 1)
    made = mouth(words, np.arange(frames) / float(rate), Style(options.jaw, options.lips))
    names = tuple(c for c in CHANNELS if c in made)
    values = np.stack([made[n] for n in names], axis=1).astype(np.float32)
    options.out.write_bytes(write_table(Channels(names, values, rate)))
    if options.words:
        options.words.write_bytes(write_words(words))
    print(f"wrote {options.out}: {frames} frames of {len(names)} channels, {len(words)} words")


COMMAND = Command("speak", "what jaw, lips and tongue do for a voice, by its text", arguments, run)
