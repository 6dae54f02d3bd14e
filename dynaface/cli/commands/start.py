"""`dynaface start`."""

import argparse
import os
from pathlib import Path

from dynaface.cli.command import Command
from dynaface.supervise.supervisor import Supervisor


def arguments(one: argparse.ArgumentParser) -> None:
    """Adds its arguments; what is not given comes from the environment."""
    port = os.environ.get("DYNAFACE_PORT")
    one.add_argument(
        "--state", type=Path, default=Path(os.environ.get("DYNAFACE_STATE", ".dynaface")), help="data folder"
    )
    one.add_argument("--host", default=os.environ.get("DYNAFACE_HOST", "127.0.0.1"))
    one.add_argument("--port", type=int, default=int(port) if port and port.isdecimal() else None)
    one.add_argument("--workers", type=int, default=int(os.environ.get("DYNAFACE_WORKERS", "2")), help="job workers")


def run(options: argparse.Namespace) -> None:
    """Runs everything until it is stopped."""
    Supervisor(options.state.absolute(), options.host, options.port, options.workers).run()


COMMAND = Command("start", "run database, web server and job workers, and keep them up", arguments, run)
