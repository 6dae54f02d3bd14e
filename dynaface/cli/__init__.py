"""`dynaface`: everything scriptable that the desks do, on files, and the server's own commands."""

import argparse
import importlib
import keyword
import sys
from collections.abc import Iterable, Sequence
from pathlib import Path

from dynaface.cli import commands
from dynaface.cli.command import Command
from dynaface.core.errors import DynafaceError
from dynaface.core.registry import discover

EPILOG = """examples:
  dynaface check take.csv
  dynaface import take.csv --rate 60 --out even.csv
  dynaface snags take.csv --sound voice.wav
  dynaface tidy take.csv --propose --out-stack stack.json
  dynaface tidy take.csv --stack stack.json --out clean.csv
  dynaface reduce clean.csv --tolerance 0.005 --out keys.json
  dynaface card rom.mp4 --samples samples.json --turn turn.mp4 --out card.json
  dynaface solve clip.mp4 --card card.json --out curves.csv
  dynaface blink clean.csv --at dart,turn --replace --out layer.json
  dynaface shot shot.json --out curves.csv
  dynaface line-up face.csv body.bvh room.wav --out lineup.json
  dynaface character odile.glb
  dynaface deliver clean.csv --character odile.glb --body walk.bvh --head-weight 1 --sound voice.wav --out shot.glb

exit status: 0 when all went well, 2 with one line on standard error when the input is bad.
The formats (curve table, stack.json, samples.json, shot.json) are described in docs/formats.md."""


def main(arguments: Sequence[str] | None = None) -> None:
    """Command line."""
    given = sys.argv[1:] if arguments is None else list(arguments)
    options = _parser(_needed(given)).parse_args(given)
    try:
        options.run(options)
    except DynafaceError as error:
        sys.stderr.write(f"dynaface: {error}\n")
        sys.exit(2)
    except OSError as error:
        sys.stderr.write(f"dynaface: {error.filename or ''}: {error.strerror}\n")
        sys.exit(2)


def _needed(given: Sequence[str]) -> Iterable[Command]:
    """The command that is typed, alone, so that only what it needs is loaded; all of them where none is."""
    word = given[0] if given else ""
    module = f"{word}_" if keyword.iskeyword(word) else word.replace("-", "_")
    if module.isidentifier() and not module.startswith("_") and Path(commands.__path__[0], f"{module}.py").is_file():
        command: Command = importlib.import_module(f"{commands.__name__}.{module}").COMMAND
        return (command,)
    return discover(commands, "COMMAND").values()


def _parser(needed: Iterable[Command]) -> argparse.ArgumentParser:
    parser = argparse.ArgumentParser(
        prog="dynaface",
        description="From a facial performance to a talking character: solves footage, reads, evens out, tidies and delivers takes.",
        epilog=EPILOG,
        formatter_class=argparse.RawDescriptionHelpFormatter,
    )
    group = parser.add_subparsers(title="commands", metavar="COMMAND", required=True)
    for command in needed:
        one = group.add_parser(command.name, help=command.help)
        command.arguments(one)
        one.set_defaults(run=command.run)
    return parser
