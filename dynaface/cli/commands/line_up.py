"""`dynaface line-up`."""

import argparse
import json
from pathlib import Path

from dynaface.cli.command import Command
from dynaface.cli.files import naming
from dynaface.core.errors import InputError
from dynaface.core.sync.line_up import WAYS, Source, line_up
from dynaface.core.tidy.stack import evaluate
from dynaface.formats.catalogue import format_of
from dynaface.formats.entries.curve_table import read_table

DIGITS = 6  # of seconds


def arguments(one: argparse.ArgumentParser) -> None:
    """Adds its arguments."""
    one.add_argument(
        "files", type=Path, nargs="+", help="curve tables, body takes (.bvh) and sounds (.wav) of one moment"
    )
    one.add_argument("--by", choices=["auto", *WAYS], default="auto", help="in which way; auto: the surest for each")
    one.add_argument("--out", type=Path, required=True, help="the line-up to write (JSON, see docs/formats.md)")


def run(options: argparse.Namespace) -> None:
    """Writes where each recording begins after the first."""
    placed = line_up([_source(path) for path in options.files], options.by)
    if all(p.start is None for p in placed[1:]):
        raise InputError("nothing lines these recordings up", hint=f"Try --by with one of {', '.join(WAYS)}")
    rows = [
        {
            "file": p.name,
            "start": None if p.start is None else round(p.start, DIGITS),
            "how": p.how,
            "confidence": round(p.confidence, 3),
            "drift": round(p.drift, 2),
            "against": p.against,
        }
        for p in placed
    ]
    options.out.write_text(json.dumps({"sources": rows}, indent=1) + "\n")
    for row in rows:
        where = "nothing says where it begins" if row["start"] is None else f"{row['start']:+.4f} s"
        print(
            f"{row['file']}: {where}" + (f", by {row['how']}, confidence {row['confidence']}" if row["against"] else "")
        )


def _source(path: Path) -> Source:
    """The recording in a file; raises InputError that names it."""
    data = path.read_bytes()
    fmt = format_of(data, path.name)
    with naming(path):
        if fmt.kind == "curves":
            face = evaluate(read_table(data)[0], ())
            return Source(path.name, face.timecode, face=face)
        if fmt.kind == "body":
            body = fmt.read(data)
            return Source(path.name, body.timecode, body=body)
        if fmt.kind == "sound":
            return Source(path.name, sound=fmt.read(data))
    raise InputError(f"{path.name} is a {fmt.label}", hint="Give curve tables, body takes and sounds")


COMMAND = Command("line-up", "line recordings of one moment up, by timecode, sound, motion or claps", arguments, run)
