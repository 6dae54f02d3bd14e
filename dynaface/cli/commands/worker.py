"""`dynaface worker`."""

import argparse
import os

from dynaface.cli.command import Command


def arguments(one: argparse.ArgumentParser) -> None:
    """It has none."""


def run(options: argparse.Namespace) -> None:
    """Works until it is stopped."""
    # Before NumPy is loaded: workers share the machine, and small matrices gain nothing from threads that wait for each other.
    os.environ.setdefault("OPENBLAS_NUM_THREADS", "1")
    from dynaface.settings import from_environment
    from dynaface.wiring import work_on_jobs

    work_on_jobs(from_environment())


COMMAND = Command("worker", "run a job worker (as many as you like, on any machine)", arguments, run)
