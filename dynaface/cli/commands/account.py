"""`dynaface account`."""

import argparse
import sys

from dynaface.cli.command import Command
from dynaface.services.people.sign_in import add_account
from dynaface.settings import from_environment
from dynaface.store.unit import Store


def arguments(one: argparse.ArgumentParser) -> None:
    """Adds its arguments."""
    one.add_argument("name")


def run(options: argparse.Namespace) -> None:
    """Adds it."""
    add_account(Store(from_environment().database), options.name, sys.stdin.readline().rstrip("\n"))
    print(f"added {options.name}")


COMMAND = Command("account", "add an account; the password is read from standard input", arguments, run)
