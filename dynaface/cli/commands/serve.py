"""`dynaface serve`."""

import argparse

from dynaface.cli.command import Command
from dynaface.core.errors import InputError
from dynaface.serve import serve
from dynaface.settings import from_environment
from dynaface.wiring import prepare


def arguments(one: argparse.ArgumentParser) -> None:
    """Adds its arguments."""
    one.add_argument("--host", default="127.0.0.1")
    one.add_argument("--port", type=int, default=8460)
    one.add_argument("--prepare", action="store_true", help="first migrate the database and seed the demo")


def run(options: argparse.Namespace) -> None:
    """Serves until it is stopped."""
    settings = from_environment()
    if settings.accounts == "alone" and options.host not in ("127.0.0.1", "localhost", "::1"):
        raise InputError("without accounts the server stays on this machine", hint="Set DYNAFACE_ACCOUNTS=password")
    if options.prepare:
        prepare(settings)
    serve(settings, options.host, options.port)


COMMAND = Command("serve", "run the web server (./dev start does this for you)", arguments, run)
