"""`dynaface match`."""

import argparse
from pathlib import Path

from dynaface.cli.command import Command
from dynaface.cli.files import body_of, naming, opened_character
from dynaface.core.errors import InputError
from dynaface.core.match.propose import DOUBTFUL, propose_match
from dynaface.formats.match_file import MatchFile, write_match


def arguments(one: argparse.ArgumentParser) -> None:
    """Adds its arguments."""
    one.add_argument("body", type=Path, help="a body take (.bvh, .glb)")
    one.add_argument("--character", type=Path, required=True, help="a character (.glb)")
    one.add_argument("--out", type=Path, required=True, help="the matches to write (JSON, see docs/formats.md)")


def run(options: argparse.Namespace) -> None:
    """Writes which joint of the character is which of the body, and how sure that is."""
    body = body_of(options.body)
    skeleton = opened_character(options.character, studied=False)[0].skeleton
    if skeleton is None:
        raise InputError(f"{options.character.name}: the character has no skeleton", hint="Skin it to joints")
    with naming(options.body):
        found = propose_match(body.skeleton, skeleton)
    options.out.write_bytes(write_match(MatchFile(found.matches, confidence=found.confidence)))
    unsure = [n for n in found.matches if found.confidence[n] < DOUBTFUL]
    print(f"{len(found.matches)} of {len(skeleton.names)} joints of the character are matched")
    if unsure:
        print(f"look at {', '.join(unsure)}")


COMMAND = Command("match", "find which joint of a character is which of a body take", arguments, run)
