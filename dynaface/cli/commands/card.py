"""`dynaface card`."""

import argparse
from pathlib import Path

from dynaface.cli.command import Command
from dynaface.cli.footage import card_from_rom
from dynaface.core.shapes.standard import SHAPES
from dynaface.formats.card_file import write_card


def arguments(one: argparse.ArgumentParser) -> None:
    """Adds its arguments."""
    one.add_argument("rom", type=Path, help="a clip in which the performer shows each expression at its extreme")
    one.add_argument("--samples", type=Path, required=True, help="which frame shows what (JSON, see docs/formats.md)")
    one.add_argument("--turn", type=Path, help="a clip in which a neutral face only turns its head")
    one.add_argument(
        "--fov",
        type=float,
        help="the camera's field of view from top to bottom, in degrees (default: measured from the head turn, 40 without one)",
    )
    one.add_argument("--out", type=Path, required=True, help="the card to write")


def run(options: argparse.Namespace) -> None:
    """Makes a card."""
    made = card_from_rom(options)
    options.out.write_bytes(write_card(made))
    lacking = [s for s, has in zip(SHAPES, made.sampled, strict=True) if not has]
    print(f"wrote {options.out}: {int(made.sampled.sum())} shapes sampled")
    if lacking:
        print(f"from the general face: {', '.join(lacking)}")


COMMAND = Command("card", "make a performer card from a range of motion", arguments, run)
