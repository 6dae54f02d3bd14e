"""Curve tables: read, with messages that name them, and what is found printed."""

from pathlib import Path
from typing import Any

from dynaface.cli.files import naming
from dynaface.core.curves.channels import Recording
from dynaface.core.errors import InputError
from dynaface.formats.catalogue import format_of
from dynaface.formats.entries.curve_table import read_table


def table_with_report(path: Path, corrections: dict[str, Any] | None = None) -> tuple[Any, Any]:
    """The recording and the report of a table; raises InputError that names the file."""
    data = path.read_bytes()
    fmt = format_of(data, path.name)
    if fmt.kind != "curves":
        raise InputError(f"{path.name} is a {fmt.label}, not a curve table")
    with naming(path):
        return read_table(data, corrections)


def recording_of(path: Path) -> Recording:
    """The recording of a table; raises InputError that names the file."""
    with naming(path):
        return read_table(path.read_bytes())[0]


def print_table_report(r: dict[str, Any]) -> None:
    """Prints what was found in a table."""
    print(f"rows {r['rows']}, {r['span']:.3f} s, nominal {r['nominalRate']} fps, measured {r['measuredRate']:.3f} fps")
    print(
        f"dropped {r['dropped']}, doubled {r['doubled']}, uneven {r['uneven']}, longest gap {r['longestGap'] * 1000:.0f} ms"
    )
    print(f"matched {len(r['matched'])} columns, not matched {len(r['unmatched'])}, missing {len(r['missing'])} shapes")
    for key, word in (
        ("unmatched", "not matched"),
        ("missing", "missing"),
        ("beyond", "beyond 0..1"),
        ("notes", "note"),
    ):
        if r[key]:
            print(f"{word}: {', '.join(r[key])}")
    if r["timecode"]:
        print(f"timecode {r['timecode']} at {r['timecodeRate']}")
