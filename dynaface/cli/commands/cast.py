"""`dynaface cast`."""

import argparse
import json
from pathlib import Path

from dynaface.cli.command import Command
from dynaface.cli.files import opened_character
from dynaface.core.cast.matching import match_targets
from dynaface.core.cast.sheet import CastSheet, describe_sheet, parse_sheet
from dynaface.formats.sheet_file import write_sheet


def arguments(one: argparse.ArgumentParser) -> None:
    """Adds its arguments."""
    one.add_argument(
        "--character", dest="file", type=Path, required=True, help="the character (.glb, or .gltf in a .zip)"
    )
    one.add_argument("--json", action="store_true", help="print the matches as JSON")
    one.add_argument("--out", type=Path, help="the cast sheet to write (JSON)")


def run(options: argparse.Namespace) -> None:
    """Prints what drives each target and joint of a character, with confidences, and writes it as a sheet."""
    found, _, _ = opened_character(options.file, True)
    report = match_targets(found, CastSheet())
    if options.json:
        rows = [
            {"target": m.target, "parts": dict(m.parts), "how": m.how, "confidence": m.confidence}
            for m in report.matched
        ]
        drives = [{"key": d.key, **d.describe()} for d in report.drives]
        left = {"missing": list(report.missing), "unused": list(report.unused)}
        print(json.dumps({"matched": rows, "drives": drives, **left}, indent=1))
    else:
        for m in report.matched:
            parts = " + ".join(f"{shape}, {gain:g}" for shape, gain in m.parts)
            print(f"{m.target} -> {parts} ({m.how}, {m.confidence:.0%})")
        for d in report.drives:
            unit = "deg" if d.moves == "turn" else "m"
            print(f"{d.joint} {d.moves}s about {d.axis} by {d.channel}, {d.most:g} {unit}")
        for name, held in (("moves nothing", report.missing), ("left alone", report.unused)):
            if held:
                print(f"{name}: {', '.join(held)}")
    if options.out:
        # Written out in full, so that the sheet says the same to a reader that does not match by itself.
        whole = {
            "matches": {m.target: dict(m.parts) for m in report.matched},
            "joints": {d.key: d.describe() for d in report.drives},
            "contacts": {"lips": True, "lids": True},
        }
        sheet = parse_sheet({**describe_sheet(CastSheet()), **whole})
        options.out.write_bytes(write_sheet(sheet, character=options.file.stem))


COMMAND = Command("cast", "match a character's targets and joints to the standard shapes", arguments, run)
