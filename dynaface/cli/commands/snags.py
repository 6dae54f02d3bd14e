"""`dynaface snags`."""

import argparse
import json
from pathlib import Path

from dynaface.cli.command import Command
from dynaface.cli.table import recording_of
from dynaface.cli.voice import add_voice, voice_of
from dynaface.core.snags.find import find_snags
from dynaface.core.snags.snag import Evidence
from dynaface.core.tidy.stack import evaluate


def arguments(one: argparse.ArgumentParser) -> None:
    """Adds its arguments."""
    one.add_argument("table", type=Path, help="a curve table")
    one.add_argument("--json", action="store_true", help="print them as JSON, mends included")
    add_voice(one)


def run(options: argparse.Namespace) -> None:
    """Lists the snags of a table."""
    channels = evaluate(recording_of(options.table), ())
    found = find_snags(Evidence(channels, voice_of(options), options.sound_offset))
    if options.json:
        print(json.dumps([s.describe() for s in found], indent=1))
        return
    for s in found:
        limit = f"{s.measured:.3g} {s.unit}".strip()
        print(
            f"{s.severity:4.2f}  frames {s.first}-{s.last}  {s.kind}: {s.words} ({limit}, limit {s.limit:.3g}; {', '.join(s.channels[:3])})"
        )
    print(
        f"{len(found)} snags in {channels.seconds:.1f} s"
        + ("" if options.sound else "; without sound some kinds are not looked for")
    )


COMMAND = Command("snags", "list the places of a take where something looks wrong", arguments, run)
