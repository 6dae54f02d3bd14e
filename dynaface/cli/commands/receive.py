"""`dynaface receive`."""

import argparse
import asyncio
from pathlib import Path

from dynaface.assets import ASSETS
from dynaface.cli.command import Command
from dynaface.cli.feed import place
from dynaface.core.errors import InputError
from dynaface.live.receiver import Receiver, receiving
from dynaface.live.stopping import told_to_stop
from dynaface.settings import BUILT_PAGE

AT, PAGE = ("127.0.0.1", 8472), 8473


def arguments(one: argparse.ArgumentParser) -> None:
    """Adds its arguments."""
    one.add_argument(
        "--at", type=place, default=AT, metavar="HOST:PORT", help=f"where a feed is heard ({AT[0]}:{AT[1]})"
    )
    one.add_argument("--page", type=int, default=PAGE, metavar="PORT", help=f"where its page is ({PAGE})")
    one.add_argument("--character", type=Path, default=ASSETS / "characters/odile.glb", help="whom it shows (.glb)")


def run(options: argparse.Namespace) -> None:
    """Shows what a feed drives, and measures what arrives, until Ctrl+C."""
    if not (BUILT_PAGE / "receiver.html").exists():
        raise InputError("the page is not built", hint="Run ./dev start once")
    receiver = Receiver(options.character.read_bytes(), options.character.name, BUILT_PAGE)
    try:
        asyncio.run(_serve(receiver, options))
    except OSError as error:
        raise InputError(
            f"port {options.at[1]} or {options.page} can't be used: {error.strerror}",
            hint="Give others with --at and --page",
        ) from None


async def _serve(receiver: Receiver, options: argparse.Namespace) -> None:
    stopped = told_to_stop()
    async with receiving(receiver, options.at, options.page) as (heard, page):
        print(f"heard at {options.at[0]}:{heard}, shown at http://127.0.0.1:{page}", flush=True)
        await stopped.wait()


COMMAND = Command(
    "receive",
    "stand in for the program that a feed drives: show its character and measure what arrives",
    arguments,
    run,
)
