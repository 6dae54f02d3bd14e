"""What a command is."""

import argparse
from collections.abc import Callable
from dataclasses import dataclass


@dataclass(frozen=True)
class Command:
    """name: as typed; help: one line; arguments: adds its arguments to a parser; run: does it with those given, raises DynafaceError
    where the input is bad.
    """

    name: str
    help: str
    arguments: Callable[[argparse.ArgumentParser], None]
    run: Callable[[argparse.Namespace], None]
