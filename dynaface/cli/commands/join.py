"""`dynaface join`."""

import argparse
from dataclasses import replace
from pathlib import Path

from dynaface.cli.command import Command
from dynaface.cli.files import body_of, naming
from dynaface.cli.joined import Given, write_joined
from dynaface.core import checks
from dynaface.core.layers.weight import Weight
from dynaface.core.perform.join_settings import JoinSettings, parse_join
from dynaface.formats.json_file import read_table
from dynaface.formats.match_file import read_match


def arguments(one: argparse.ArgumentParser) -> None:
    """Adds its arguments."""
    one.add_argument("table", type=Path, help="a curve table that is even in time")
    one.add_argument("--body", type=Path, required=True, help="a body take (.bvh, .glb), placed by timecode")
    one.add_argument("--hands", type=Path, help="a take of hands (.bvh, .glb) for the fingers, placed by timecode")
    one.add_argument("--character", type=Path, required=True, help="the character (.glb)")
    one.add_argument("--match", type=Path, help="which joint is which (JSON of `dynaface match`)")
    one.add_argument("--join", type=Path, help="how they are joined (JSON, see docs/formats.md)")
    one.add_argument("--sheet", type=Path, help="a cast sheet (JSON)")
    one.add_argument(
        "--out", type=Path, required=True, help="the file, whose ending says its form (.glb, .usdc, .bvh, ...)"
    )


def run(options: argparse.Namespace) -> None:
    """Writes face, body and hands on one character."""
    settings = _settings(options.join) if options.join else JoinSettings()
    if options.match:
        with naming(options.match):
            said = read_match(options.match.read_bytes())
        own = settings.match
        both = replace(own, matches={**said.matches, **own.matches}, turns={**said.turns, **own.turns})
        settings = replace(settings, match=both)
    hands = body_of(options.hands) if options.hands else None
    body = body_of(options.body)
    write_joined(Given(options.table, settings, options.character, body, hands, options.sheet), options.out)


def _settings(path: Path) -> JoinSettings:
    with naming(path):
        plain = read_table(path.read_bytes(), "the join")
        weight = Weight(checks.within("headWeight", plain.pop("headWeight", 1.0), 0, 1))
        return replace(parse_join(plain), head_weight=weight)


COMMAND = Command("join", "join face, body and hands on a character", arguments, run)
