"""`dynaface reduce`."""

import argparse
import json
from pathlib import Path

from dynaface.cli.command import Command
from dynaface.core import checks
from dynaface.core.curves.reduce import reduce as reduced
from dynaface.core.shapes.standard import full_range
from dynaface.formats.entries.curve_table import table_to_channels
from dynaface.formats.keys_file import write_keys


def arguments(one: argparse.ArgumentParser) -> None:
    """Adds its arguments."""
    one.add_argument("table", type=Path, help="a curve table that is even in time")
    one.add_argument(
        "--tolerance", type=float, default=0.005, help="in shape units, thirty times as much in degrees (default 0.005)"
    )
    one.add_argument("--out", type=Path, required=True, help="the keys to write (JSON, see docs/formats.md)")
    one.add_argument("--json", action="store_true", help="print keys and errors as JSON")


def run(options: argparse.Namespace) -> None:
    """Writes a table's channels as keys and says how far they are off."""
    tolerance = checks.within("tolerance", options.tolerance, 0.0005, 0.2)
    channels = table_to_channels(options.table.read_bytes(), options.table.name)
    made = {n: reduced(channels.column(n), float(channels.rate), tolerance * full_range(n)) for n in channels.names}
    options.out.write_bytes(write_keys(channels, {n: r.keys for n, r in made.items()}))
    report = {n: {"keys": len(r.keys), "worst": round(r.worst, 6), "mean": round(r.mean, 6)} for n, r in made.items()}
    if options.json:
        print(json.dumps(report, indent=1))
        return
    for name, row in report.items():
        print(f"{name}: {row['keys']} keys, worst {row['worst']:.5f}, mean {row['mean']:.5f}")
    total = sum(len(r.keys) for r in made.values())
    print(f"wrote {options.out}: {total} keys for {channels.frames * len(channels.names)} values")


COMMAND = Command("reduce", "make each channel as few keys as a tolerance allows", arguments, run)
