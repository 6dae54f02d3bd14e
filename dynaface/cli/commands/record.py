"""`dynaface record`."""

import argparse
from pathlib import Path

from dynaface.cli.command import Command
from dynaface.cli.feed import Ears, listening
from dynaface.core.errors import InputError
from dynaface.live.recorder import line_of


def arguments(one: argparse.ArgumentParser) -> None:
    """Adds its arguments."""
    listening(one)
    one.add_argument("--performer", default="", help="of whom, where several are heard; without it, of the first")
    one.add_argument("--out", type=Path, required=True, help="the table to write (.jsonl)")


def run(options: argparse.Namespace) -> None:
    """Writes a feed as a table of JSON lines, each packet as it came."""
    ears, began, packets, whose = Ears(options.at), None, 0, None
    with options.out.open("wb", buffering=0) as out:
        for found in ears.hear(options.seconds):
            if found is None or (options.performer and found[0].called != options.performer):
                continue
            sender, heard = found
            whose = whose or sender
            if sender is not whose:
                continue
            began = heard.seconds if began is None else began
            out.write(line_of(heard, heard.seconds - began, live=False))
            packets += 1
    if not packets or whose is None:
        raise InputError("nothing was heard", where=str(options.out), hint="Is the sender sending to this port?")
    print(f"{packets} packets of {whose.key} written to {options.out}")


COMMAND = Command("record", "write a feed as a table of JSON lines", arguments, run)
