"""sheet.json: a cast sheet as a file (docs/formats.md)."""

import json
from typing import Any

from dynaface.core.cast.sheet import CastSheet, describe_sheet, parse_sheet
from dynaface.core.errors import InputError, LimitError

VERSION, LARGEST = 1, 4_000_000


def write_sheet(sheet: CastSheet, performer: str = "", character: str = "") -> bytes:
    """The file's bytes."""
    plain = {"dynafaceSheet": VERSION, "performer": performer, "character": character, **describe_sheet(sheet)}
    return (json.dumps(plain, indent=1, ensure_ascii=False) + "\n").encode()


def read_sheet(data: bytes) -> CastSheet:
    """The sheet; raises InputError. A file without the head is read as well: `deliver --cast` took such ones."""
    if len(data) > LARGEST:
        raise LimitError(f"the sheet is {len(data) / 1e6:.0f} MB", hint="A sheet has at most 4 MB")
    try:
        plain: Any = json.loads(data)
    except (ValueError, RecursionError) as error:
        raise InputError(f"this is no JSON: {str(error)[:100]}", hint="Export the sheet again") from None
    if not isinstance(plain, dict):
        raise InputError("this is no cast sheet", hint="Export the sheet again")
    version = plain.pop("dynafaceSheet", VERSION)
    if version != VERSION:
        raise InputError(f"this sheet is of version {version!r}; we read version {VERSION}")
    for note in ("performer", "character"):
        plain.pop(note, None)
    return parse_sheet(plain)
