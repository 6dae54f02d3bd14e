"""`dynaface listen`."""

import argparse
import json
import time

from dynaface.cli.command import Command
from dynaface.cli.feed import Ears, listening

EACH = 1.0  # seconds between looks


def arguments(one: argparse.ArgumentParser) -> None:
    """Adds its arguments."""
    listening(one)
    one.add_argument("--json", action="store_true", help="a JSON object a second and sender, with all values")


def run(options: argparse.Namespace) -> None:
    """Says each second who is heard, and how."""
    ears = Ears(options.at)
    print(f"listening at {options.at[0]}:{options.at[1]}", flush=True)
    due = time.monotonic() + EACH
    for _ in ears.hear(options.seconds):
        if time.monotonic() >= due:
            due += EACH
            _say(ears, options.json)
    _say(ears, options.json)


def _say(ears: Ears, as_json: bool) -> None:
    now = time.monotonic()
    for sender in ears.senders.values():
        said = sender.describe(now)
        if as_json:
            print(json.dumps({k: v for k, v in said.items() if k != "shown"}), flush=True)
            continue
        read = sum(1 for signal in said["signals"] if signal[1])
        print(f"{sender.key}: {said['rate']:.1f} a second, {said['lost']} lost, {read} of {len(said['signals'])} values are channels, "
              f"last {said['age']:.2f} s ago", flush=True)  # fmt: skip
    for line in ears.refused[-3:]:
        print(f"not understood: {line}", flush=True)
    ears.refused.clear()
    if not ears.senders and not as_json:
        print("nothing is heard", flush=True)


COMMAND = Command(
    "listen", "say who sends a feed to this machine, how fast, and what of it is understood", arguments, run
)
