"""`dynaface shot`."""

import argparse
from pathlib import Path

from dynaface.cli.command import Command
from dynaface.core.errors import InputError
from dynaface.formats.entries.curve_table import table_to_channels, write_table
from dynaface.formats.shot_file import play_shot_file, read_shot_file


def arguments(one: argparse.ArgumentParser) -> None:
    """Adds its arguments."""
    one.add_argument(
        "shot", type=Path, help="clips, capture weights and layers of one role (JSON, see docs/formats.md)"
    )
    one.add_argument("--out", type=Path, required=True, help="the curve table to write")


def run(options: argparse.Namespace) -> None:
    """Plays a shot of curve tables, which lie beside it, to one table at its rate."""
    shot = read_shot_file(options.shot.read_bytes(), options.shot.name)
    tables = {}
    for name in {clip.file for clip in shot.clips}:
        if Path(name).name != name:
            raise InputError(f"{name!r} leads elsewhere", where="clips", hint="Tables lie in the folder of the shot")
        tables[name] = table_to_channels((options.shot.parent / name).read_bytes(), name)
    made = play_shot_file(shot, tables)
    options.out.write_bytes(write_table(made))
    print(f"wrote {options.out}: {made.frames} frames of {len(shot.clips)} clips and {len(shot.layers)} layers")


COMMAND = Command("shot", "play clips and layers of one role to a curve table", arguments, run)
