"""`dynaface record`."""

import argparse
from pathlib import Path

from dynaface.cli.command import Command
from dynaface.cli.feed import Ears, listening
from dynaface.core.errors import InputError
from dynaface.live.recorder import body_line_of, head_line_of, line_of


def arguments(one: argparse.ArgumentParser) -> None:
    """Adds its arguments."""
    listening(one)
    one.add_argument("--performer", default="", help="of whom, where several are heard; without it, of the first")
    one.add_argument(
        "--body", action="store_true", help="the body, which its sender must say the skeleton of, in place of the face"
    )
    one.add_argument("--out", type=Path, required=True, help="the file to write (.jsonl)")


def run(options: argparse.Namespace) -> None:
    """Writes a feed as a table of JSON lines, or the body in it, each packet as it came."""
    ears, began, packets, whose = Ears(options.at), None, 0, None
    with options.out.open("wb", buffering=0) as out:
        for found in ears.hear(options.seconds):
            if found is None or (options.performer and found[0].called != options.performer):
                continue
            sender, heard = found
            whose = whose or sender
            packet = heard.packet
            if sender is not whose or not (packet.joints and sender.body.rows if options.body else packet.values):
                continue
            if began is None and options.body:
                out.write(head_line_of(heard, sender.body.rows))
            began = heard.seconds if began is None else began
            out.write(
                body_line_of(heard, heard.seconds - began)
                if options.body
                else line_of(heard, heard.seconds - began, live=False)
            )
            packets += 1
    if not packets or whose is None:
        raise InputError("nothing was heard", where=str(options.out), hint="Is the sender sending to this port?")
    print(f"{packets} packets of {whose.key} written to {options.out}")


COMMAND = Command("record", "write a feed as a table of JSON lines, or the body in it", arguments, run)
