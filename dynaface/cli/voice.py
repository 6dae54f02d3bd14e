"""The sound of a take, as several commands are given it."""

import argparse
from pathlib import Path

from dynaface.core.sound.sound import Sound
from dynaface.formats.entries import wav


def add_voice(one: argparse.ArgumentParser) -> None:
    """Adds the arguments."""
    one.add_argument("--sound", type=Path, help="the take's voice (WAV); some snags are heard, not seen")
    one.add_argument("--sound-offset", type=float, default=0.0, help="seconds to add to the sound's times (default 0)")


def voice_of(options: argparse.Namespace) -> Sound | None:
    """The sound, where one is given."""
    return wav.read(options.sound.read_bytes()) if options.sound else None
