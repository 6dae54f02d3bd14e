"""`dynaface live`."""

import argparse

from dynaface.cli.command import Command
from dynaface.core.errors import InputError
from dynaface.settings import from_environment
from dynaface.wiring import live


def arguments(one: argparse.ArgumentParser) -> None:
    """Adds its arguments."""
    one.add_argument("--host", default="127.0.0.1", help="where pages and commands are answered")


def run(options: argparse.Namespace) -> None:
    """Hears, records and sends feeds until it is stopped."""
    settings = from_environment()
    if not settings.live.port:
        raise InputError("no port is set for the feeds' web server", hint="Set DYNAFACE_LIVE_PORT")
    try:
        live(settings, options.host)
    except OSError as error:
        raise InputError(f"the feeds' web server can't be at port {settings.live.port}: {error.strerror}") from None


COMMAND = Command("live", "run the process of feeds (./dev start does this for you)", arguments, run)
