"""`dynaface deliver`."""

import argparse
from pathlib import Path

from dynaface.cli.command import Command
from dynaface.cli.files import body_of
from dynaface.cli.joined import write_joined
from dynaface.core import checks
from dynaface.core.layers.weight import Weight
from dynaface.core.perform.join_settings import JoinSettings
from dynaface.formats.catalogue import FORMATS


def arguments(one: argparse.ArgumentParser) -> None:
    """Adds its arguments."""
    one.add_argument("table", type=Path, help="a curve table that is even in time")
    one.add_argument("--character", type=Path, required=True, help="the character (.glb)")
    one.add_argument("--body", type=Path, help="a body take (.bvh, .glb), placed by timecode")
    one.add_argument(
        "--head-weight", type=float, default=1.0, help="0: the body's own head .. 1: the face's (default 1)"
    )
    one.add_argument("--nudge", type=float, default=0.0, help="frames by which the body is moved later (default 0)")
    one.add_argument(
        "--lean", type=float, default=0.0, help="0 .. 1 of the head's travel after which the trunk leans (default 0)"
    )
    one.add_argument("--feet", action="store_true", help="feet that stood in the body take stand")
    one.add_argument("--touch", action="store_true", help="hands that touched the head or each other touch")
    one.add_argument("--sound", type=Path, help="a WAV to be noted in the file, with its offset")
    one.add_argument("--sound-offset", type=float, default=0.0, help="seconds to add to the sound's times (default 0)")
    one.add_argument("--sheet", "--cast", type=Path, help="a cast sheet (JSON, see docs/formats.md)")
    one.add_argument("--out", type=Path, required=True, help="the .glb to write")


def run(options: argparse.Namespace) -> None:
    """Bakes the file and prints the checks of it."""
    body = body_of(options.body) if options.body else None
    weight, lean = checks.within("head weight", options.head_weight, 0, 1), checks.within("lean", options.lean, 0, 1)
    settings = JoinSettings(
        nudge=options.nudge, head_weight=Weight(weight), lean=lean, feet=options.feet, touch=options.touch
    )
    sound = None
    if options.sound:
        FORMATS["wav"].read(options.sound.read_bytes())
        sound = {"file": options.sound.name, "offsetSeconds": options.sound_offset}
    write_joined(options.table, options.character, options.out, settings, body, sheet=options.sheet, sound=sound)


COMMAND = Command("deliver", "put a curve table on a character and bake a glTF binary", arguments, run)
