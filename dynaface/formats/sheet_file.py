"""sheet.json: a cast sheet as a file (docs/formats.md)."""

import json

from dynaface.core.cast.sheet import CastSheet, describe_sheet, parse_sheet
from dynaface.core.errors import InputError
from dynaface.formats.json_file import read_table

VERSION = 1


def write_sheet(sheet: CastSheet, performer: str = "", character: str = "") -> bytes:
    """The file's bytes."""
    plain = {"dynafaceSheet": VERSION, "performer": performer, "character": character, **describe_sheet(sheet)}
    return (json.dumps(plain, indent=1, ensure_ascii=False) + "\n").encode()


def read_sheet(data: bytes) -> CastSheet:
    """The sheet; raises InputError. A file without the head is read as well: `deliver --cast` took such ones."""
    plain = read_table(data, "the sheet")
    version = plain.pop("dynafaceSheet", VERSION)
    if version != VERSION:
        raise InputError(f"this sheet is of version {version!r}; we read version {VERSION}")
    for note in ("performer", "character"):
        plain.pop(note, None)
    return parse_sheet(plain)
