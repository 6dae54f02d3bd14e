"""`dynaface import`."""

import argparse
import json
from pathlib import Path

from dynaface.cli.command import Command
from dynaface.cli.table import print_table_report, table_with_report
from dynaface.core.clock.rates import parse_rate
from dynaface.core.curves.rerate import at_rate
from dynaface.core.tidy.stack import evaluate
from dynaface.formats.entries.curve_table import write_table


def arguments(one: argparse.ArgumentParser) -> None:
    """Adds its arguments."""
    one.add_argument("table", type=Path, help="a curve table (.csv, .tsv, .txt, .jsonl)")
    one.add_argument("--rate", default="", help="frames per second to even out to (default: as recorded)")
    one.add_argument("--out", type=Path, required=True, help="the evened-out curve table to write")
    one.add_argument("--json", action="store_true", help="print the report as JSON")


def run(options: argparse.Namespace) -> None:
    """Reads, reports, writes."""
    recording, report = table_with_report(options.table, {"rate": options.rate} if options.rate else None)
    channels = evaluate(recording, ())
    if options.rate:
        channels = at_rate(channels, parse_rate(options.rate))
    options.out.write_bytes(write_table(channels))
    described = report.describe() | {"framesWritten": channels.frames}
    if options.json:
        print(json.dumps(described, indent=1))
    else:
        print_table_report(described)
        print(f"wrote {options.out}: {channels.frames} frames")


COMMAND = Command("import", "read a curve table, report on it, write it evened out in time", arguments, run)
