"""Performer cards from footage, as several commands make them."""

import argparse

from dynaface.cli.files import footage_of
from dynaface.core.solve.card import PerformerCard
from dynaface.core.track.camera import FOV
from dynaface.formats.json_file import read_json
from dynaface.pipelines.solve_footage import (
    make_card,
    parse_samples,
)


def card_from_rom(options: argparse.Namespace) -> PerformerCard:
    """The card that `--rom`, `--samples`, `--turn` and `--fov` make; raises InputError."""
    samples = parse_samples(read_json(options.samples.read_bytes(), options.samples.name))
    turn = footage_of(options.turn) if options.turn else None
    return make_card(footage_of(options.rom), samples, turn, options.fov or FOV)
