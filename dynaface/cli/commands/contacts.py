"""`dynaface contacts`."""

import argparse
import json
from pathlib import Path

from dynaface.cli.command import Command
from dynaface.cli.files import body_of, naming
from dynaface.core.contact.find_feet import find_foot_contacts
from dynaface.core.contact.find_hands import TOUCHES, find_touches

NAMES = dict(zip(TOUCHES, ("handLeft", "handRight", "hands"), strict=True))
WORDS = dict(zip(TOUCHES, ("left hand on the head", "right hand on the head", "hands on each other"), strict=True))


def arguments(one: argparse.ArgumentParser) -> None:
    """Adds its arguments."""
    one.add_argument("body", type=Path, help="a body take (.bvh, .glb)")
    one.add_argument("--out", type=Path, required=True, help="the contacts to write (JSON, see docs/formats.md)")


def run(options: argparse.Namespace) -> None:
    """Writes when each foot, heel and toe stands, and when hands touch."""
    body = body_of(options.body)
    with naming(options.body):
        found = find_foot_contacts(body)
        touches = find_touches(body)
    out: dict[str, list[list[int]]] = {}
    for foot in found:
        for place, spans in (("foot", foot.foot), ("heel", foot.heel), ("toe", foot.toe)):
            out[f"{place}{foot.side}"] = [list(span) for span in spans]
    for what, spans in touches.items():
        out[NAMES[what]] = [list(span) for span in spans]
    options.out.write_text(json.dumps(out) + "\n")
    print(f"the ground is at {found[0].floor:.3f} m")
    for foot in found:
        print(f"{foot.side.lower()} foot: {len(foot.foot)} contacts")
    for what, spans in touches.items():
        print(f"{WORDS[what]}: {len(spans)} touches")


COMMAND = Command("contacts", "find when the feet of a body take stand, and when its hands touch", arguments, run)
