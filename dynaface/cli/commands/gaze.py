"""`dynaface gaze`."""

import argparse
from pathlib import Path

import numpy as np

from dynaface.cli.command import Command
from dynaface.cli.made_layer import write_layer
from dynaface.core.errors import InputError
from dynaface.core.layers.around import Around
from dynaface.core.layers.gaze import snap
from dynaface.core.layers.maker import known_makers, placed_maker
from dynaface.formats.aims_file import aims_at_origin, eyes_at_origin, read_aims_file
from dynaface.formats.entries.curve_table import table_to_channels


def arguments(one: argparse.ArgumentParser) -> None:
    """Adds its arguments."""
    one.add_argument("table", type=Path, help="a curve table that is even in time")
    one.add_argument(
        "--aims", type=Path, required=True, help="what there is to look at, and when (JSON, see docs/formats.md)"
    )
    one.add_argument("--snap", type=float, metavar="DEGREES",
                     help="take the looks of the table: each at the aim within so many degrees, else steady where it is")  # fmt: skip
    one.add_argument("--head", type=float, default=0.3, help="the head's share of the way to an aim (default 0.3)")
    one.add_argument("--seed", type=int, default=1, help="another number gives other small steps")
    one.add_argument("--out", type=Path, required=True, help="the layer to write (JSON, see docs/formats.md)")


def run(options: argparse.Namespace) -> None:
    """Writes looks for a table as a layer of keys."""
    channels = table_to_channels(options.table.read_bytes(), options.table.name)
    given = read_aims_file(options.aims.read_bytes(), options.aims.name)
    around = Around(eyes_at_origin(), aims_at_origin(given.aims))
    looks = list(given.looks)
    if options.snap is not None:
        found = snap(channels, around, options.snap)
        looks = list(found.looks)
        off = f", {np.median(found.errors):.2f} deg off them (median)" if found.errors else ""
        print(
            f"{len(found.errors) + found.missed} fixations: {len(found.errors)} at aims{off}, {found.missed} held where they are"
        )
    table = {f"l{n}": list(row) for n, row in enumerate(looks)}
    placed = placed_maker("gaze", {"looks": table, "head": options.head, "seed": options.seed})
    made = known_makers()["gaze"].make(channels, placed.parameters, around)
    if not made:
        raise InputError("no look comes of this", hint="Give looks in the file of aims, or --snap")
    write_layer(options.out, "gaze", made, float(channels.rate))


COMMAND = Command("gaze", "let the eyes of a curve table look at aims, as a layer", arguments, run)
