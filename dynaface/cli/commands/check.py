"""`dynaface check`."""

import argparse
import json
from pathlib import Path

from dynaface.cli.command import Command
from dynaface.cli.files import naming
from dynaface.cli.table import print_table_report
from dynaface.formats.catalogue import format_of_stored
from dynaface.formats.stored import OnDisk


def arguments(one: argparse.ArgumentParser) -> None:
    """Adds its arguments."""
    one.add_argument("file", type=Path)
    one.add_argument("--json", action="store_true", help="print the findings as JSON")


def run(options: argparse.Namespace) -> None:
    """Prints what the file is."""
    file = OnDisk(options.file)
    fmt = format_of_stored(file, options.file.name)
    with naming(options.file):
        found = fmt.check(fmt.read_stored(file))
    if options.json:
        print(json.dumps({"format": fmt.name, "kind": fmt.kind, **found}, indent=1))
        return
    print(f"{options.file.name}: {fmt.label}")
    if fmt.kind == "curves":
        print_table_report(found)
    else:
        for key, value in found.items():
            if value not in ([], ""):
                print(f"{key}: {', '.join(map(str, value)) if isinstance(value, list) else value}")


COMMAND = Command("check", "say what a file is and whether it is sound", arguments, run)
