"""`dynaface character`."""

import argparse
import json
from pathlib import Path

from dynaface.cli.command import Command
from dynaface.cli.files import opened_character
from dynaface.core.cast.health import examine_character


def arguments(one: argparse.ArgumentParser) -> None:
    """Adds its arguments."""
    one.add_argument("file", type=Path, help="the character (.glb)")
    one.add_argument("--json", action="store_true", help="print the report as JSON")


def run(options: argparse.Namespace) -> None:
    """Prints the health report of a character."""
    found, geometry, _ = opened_character(options.file, False)
    health = examine_character(found, geometry)
    if options.json:
        print(json.dumps(health.describe(), indent=1))
        return
    print(f"{len(health.present)} of the 52 shapes, lengths in {health.unit or 'no known unit'}, {health.up} is up")
    for part, joints in health.joints.items():
        print(f"{part} joints: {', '.join(joints)}")
    for finding in health.findings:
        print(f"{finding.kind}: {finding.words}" + (f" ({', '.join(finding.meshes)})" if finding.meshes else ""))
    if not health.findings:
        print("nothing is wrong with it")


COMMAND = Command("character", "say which shapes a character has and what is wrong with it", arguments, run)
