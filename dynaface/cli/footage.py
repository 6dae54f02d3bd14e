"""Performer cards from footage, as several commands make them."""

import argparse
import sys

from dynaface.cli.files import footage_of
from dynaface.core.errors import InputError
from dynaface.core.solve.card import PerformerCard
from dynaface.core.track.camera import FOV
from dynaface.formats.json_file import read_json
from dynaface.pipelines.measure_lens import measure_lens
from dynaface.pipelines.solve_footage import find_landmarks, make_card, parse_samples


def card_from_rom(options: argparse.Namespace) -> PerformerCard:
    """The card that `--rom`, `--samples`, `--turn` and `--fov` make; raises InputError."""
    samples = parse_samples(read_json(options.samples.read_bytes(), options.samples.name))
    rom, fov = footage_of(options.rom), options.fov or FOV
    if not options.turn:
        return make_card(rom, samples, None, fov)
    turn = footage_of(options.turn)
    turned = find_landmarks(turn)
    if options.fov is None:
        try:
            lens = measure_lens(turn, turned)
        except InputError as problem:
            print(f"{problem.message}: {fov:g} degrees are assumed", file=sys.stderr)
        else:
            fov = lens.fov
            print(f"the lens sees {fov:.1f} degrees from top to bottom ({lens.low:.1f} to {lens.high:.1f}), by the head turn",
                  file=sys.stderr)  # fmt: skip
    return make_card(rom, samples, turn, fov, turned=turned)
