"""`dynaface serve`."""

import argparse

from dynaface.cli.command import Command
from dynaface.core.errors import InputError
from dynaface.serve import serve
from dynaface.settings import LOOPBACK, from_environment
from dynaface.wiring import prepare


def arguments(one: argparse.ArgumentParser) -> None:
    """Adds its arguments."""
    one.add_argument("--host", default="127.0.0.1")
    one.add_argument("--port", type=int, default=8460)
    one.add_argument("--prepare", action="store_true", help="first migrate the database, seed the demo and warm up")


def run(options: argparse.Namespace) -> None:
    """Serves until it is stopped."""
    settings = from_environment()
    if settings.accounts == "alone" and options.host not in LOOPBACK:
        raise InputError("without accounts the server stays on this machine", hint="Set DYNAFACE_ACCOUNTS=password")
    if options.host not in LOOPBACK and not settings.hosts:
        raise InputError("the server is to be reached from elsewhere, but not said under which names",
                         hint="Set DYNAFACE_HOSTS, such as faces.example,10.0.0.5")  # fmt: skip
    if options.prepare:
        prepare(settings)
    serve(settings, options.host, options.port, warm=options.prepare)


COMMAND = Command("serve", "run the web server (./dev start does this for you)", arguments, run)
