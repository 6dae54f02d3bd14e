"""`dynaface with_database`."""

import argparse
import sys
from pathlib import Path

from dynaface.cli.command import Command
from dynaface.supervise.supervisor import DATABASE, with_database


def arguments(one: argparse.ArgumentParser) -> None:
    """Adds its arguments."""
    one.add_argument("--state", type=Path, required=True, help="data folder")
    one.add_argument("--quick", action="store_true", help="without care for crashes: for tests")
    one.add_argument("--databases", default=DATABASE, help="names with commas between them")
    one.add_argument("command", nargs=argparse.REMAINDER, help="what to run")


def run(options: argparse.Namespace) -> None:
    """Runs it and ends as it does."""
    sys.exit(with_database(options.state.absolute(), options.command, options.databases.split(","), options.quick))


COMMAND = Command("with_database", "run a command with the database of a data folder", arguments, run)
