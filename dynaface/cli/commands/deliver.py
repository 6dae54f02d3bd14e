"""`dynaface deliver`."""

import argparse
from pathlib import Path

from dynaface.cli.command import Command
from dynaface.core import checks
from dynaface.core.cast.matching import match_targets
from dynaface.core.cast.sheet import CastSheet
from dynaface.core.layers.weight import Weight
from dynaface.core.perform.join import JoinSettings
from dynaface.core.perform.perform import perform_take
from dynaface.formats.catalogue import FORMATS
from dynaface.formats.character_file import open_character
from dynaface.formats.entries.curve_table import table_to_channels
from dynaface.formats.sheet_file import read_sheet
from dynaface.pipelines.bake_handover import HandoverSettings, bake_handover


def arguments(one: argparse.ArgumentParser) -> None:
    """Adds its arguments."""
    one.add_argument("table", type=Path, help="a curve table that is even in time")
    one.add_argument("--character", type=Path, required=True, help="the character (.glb)")
    one.add_argument("--body", type=Path, help="a body take (.bvh), placed by timecode")
    one.add_argument(
        "--head-weight", type=float, default=1.0, help="0: the body's own head .. 1: the face's (default 1)"
    )
    one.add_argument("--nudge", type=float, default=0.0, help="frames by which the body is moved later (default 0)")
    one.add_argument(
        "--lean", type=float, default=0.0, help="0 .. 1 of the head's travel after which the trunk leans (default 0)"
    )
    one.add_argument("--feet", action="store_true", help="feet that stood in the body take stand")
    one.add_argument("--sound", type=Path, help="a WAV to be noted in the file, with its offset")
    one.add_argument("--sound-offset", type=float, default=0.0, help="seconds to add to the sound's times (default 0)")
    one.add_argument("--sheet", "--cast", type=Path, help="a cast sheet (JSON, see docs/formats.md)")
    one.add_argument("--out", type=Path, required=True, help="the .glb to write")


def run(options: argparse.Namespace) -> None:
    """Bakes the file and prints the checks of it."""
    channels = table_to_channels(options.table.read_bytes(), options.table.name)
    character, _, raw = open_character(options.character.read_bytes(), options.character.name)
    sheet = read_sheet(options.sheet.read_bytes()) if options.sheet else CastSheet()
    body = FORMATS["bvh"].read(options.body.read_bytes()) if options.body else None
    weight, lean = checks.within("head weight", options.head_weight, 0, 1), checks.within("lean", options.lean, 0, 1)
    settings = JoinSettings(nudge=options.nudge, head_weight=Weight(weight), lean=lean, feet=options.feet)
    made = perform_take(channels, character, sheet, body, settings)
    sound = None
    if options.sound:
        FORMATS["wav"].read(options.sound.read_bytes())
        sound = {"file": options.sound.name, "offsetSeconds": options.sound_offset}
    baked = bake_handover(made, raw, character.skeleton, HandoverSettings(table=False), options.out.stem, sound)
    options.out.write_bytes(next(iter(baked.files.values())))
    report = match_targets(character, sheet)
    print(f"wrote {options.out}: {channels.frames} frames, {len(report.matched)} targets, {len(made.joints)} joints")
    if report.missing:
        print(f"the character lacks: {', '.join(report.missing)}")
    for check in baked.report["checks"]:
        print(f"{check['what']}: {check['found']}")


COMMAND = Command("deliver", "put a curve table on a character and bake a glTF binary", arguments, run)
