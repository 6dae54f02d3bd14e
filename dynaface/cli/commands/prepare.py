"""`dynaface prepare`."""

import argparse

from dynaface.cli.command import Command
from dynaface.settings import from_environment
from dynaface.wiring import prepare


def arguments(one: argparse.ArgumentParser) -> None:
    """It has none."""


def run(options: argparse.Namespace) -> None:
    """Migrates and seeds."""
    prepare(from_environment())


COMMAND = Command("prepare", "migrate the database and seed the demo, once before serving", arguments, run)
