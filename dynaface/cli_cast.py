"""The commands about characters: `dynaface character`, `dynaface cast`."""

import argparse
import json
from typing import Any

from dynaface.core.cast.health import examine_character
from dynaface.core.cast.matching import match_targets
from dynaface.core.cast.sheet import CastSheet, describe_sheet, parse_sheet
from dynaface.core.errors import InputError
from dynaface.formats.character_file import open_character
from dynaface.formats.sheet_file import write_sheet


def _opened(options: argparse.Namespace, studied: bool) -> Any:
    file = options.file
    try:
        return open_character(file.read_bytes(), file.name, studied)
    except InputError as error:
        raise type(error)(f"{file.name}: {error.message}", where=error.where, hint=error.hint) from None


def character(options: argparse.Namespace) -> None:
    """Prints the health report of a character."""
    found, geometry, _ = _opened(options, False)
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


def cast(options: argparse.Namespace) -> None:
    """Prints what drives each target and joint of a character, with confidences, and writes it as a sheet."""
    found, _, _ = _opened(options, True)
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
