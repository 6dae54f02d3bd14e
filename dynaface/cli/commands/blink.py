"""`dynaface blink`."""

import argparse
from pathlib import Path

from dynaface.cli.command import Command
from dynaface.cli.made_layer import write_layer
from dynaface.core import checks
from dynaface.core.errors import InputError
from dynaface.core.layers.around import NOTHING
from dynaface.core.layers.maker import known_makers, placed_maker
from dynaface.formats.entries.curve_table import table_to_channels

PLACES = {"dart": "darts", "turn": "turns"}


def arguments(one: argparse.ArgumentParser) -> None:
    """Adds its arguments."""
    one.add_argument("table", type=Path, help="a curve table that is even in time")
    one.add_argument("--at", default="", help="where blinks go: dart, turn or frames, parted by commas (dart,turn,120)")
    one.add_argument("--rate", type=float, default=0.0, help="further ones by chance, a minute")
    one.add_argument("--seed", type=int, default=1, help="another number gives other moments")
    one.add_argument("--replace", action="store_true", help="take the captured ones out and make them anew")
    one.add_argument("--out", type=Path, required=True, help="the layer to write (JSON, see docs/formats.md)")


def run(options: argparse.Namespace) -> None:
    """Writes blinks for a table as a layer of keys."""
    channels = table_to_channels(options.table.read_bytes(), options.table.name)
    words = [w.strip() for w in options.at.split(",") if w.strip()]
    frames = [int(w) for w in words if w.isdigit() and len(w) < 9]
    given = {"frames": frames, "rate": options.rate, "seed": options.seed,
             "captured": "replace" if options.replace else "keep"}  # fmt: skip
    for word in words:
        if not word.isdigit():
            given[PLACES[checks.one_of("at", word, PLACES)]] = "yes"
    placed = placed_maker("blinks", given)
    made = known_makers()["blinks"].make(channels, placed.parameters, NOTHING)
    if not made:
        raise InputError("no blink comes of this", hint="Give --at, --rate or --replace")
    write_layer(options.out, "blinks", made, float(channels.rate))


COMMAND = Command("blink", "make blinks for a curve table, or make the captured ones anew, as a layer", arguments, run)
