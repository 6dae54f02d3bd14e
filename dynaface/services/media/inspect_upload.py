"""Looking at a file before it becomes part of a take: what it is, whether it is sound, how it will be read."""

from dataclasses import dataclass
from typing import Any

from dynaface.core.errors import InputError
from dynaface.formats.catalogue import format_of_stored
from dynaface.formats.format import Format
from dynaface.formats.stored import all_of
from dynaface.formats.table.cells import read_cells
from dynaface.formats.table.reading import to_recording
from dynaface.formats.table.recipe import parse_recipe
from dynaface.formats.table.understand import propose
from dynaface.services.media.uploaded import uploaded_file
from dynaface.services.work import Work, allow


@dataclass(frozen=True)
class Inspected:
    """A file as read: its format, its report, the object, and whether a kept recipe was used."""

    format: Format
    report: dict[str, Any]
    value: Any
    remembered: bool = False


def inspect_upload(
    work: Work, production: str, medium: str, filename: str, corrections: dict[str, Any] | None = None
) -> Inspected:
    """Reads a stored upload without making anything of it; raises InputError with the place in the file."""
    with work.store.unit() as unit:
        allow(unit, production, work.person)
    if not filename or len(filename) > 200:
        raise InputError("the file's name must have 1 to 200 letters")
    file = uploaded_file(work, production, medium)
    fmt = format_of_stored(file, filename)
    if fmt.kind != "curves":
        value = fmt.read_stored(file)
        return Inspected(fmt, fmt.check(value), value)
    cells = read_cells(all_of(file))
    recipe = propose(cells)
    with work.store.unit() as unit:
        kept = unit.sources.recipe_for(production, header_key(cells.header))
    if kept:
        recipe = parse_recipe(kept, recipe)
    if corrections:
        given = dict(corrections)
        if "columns" in given:
            given["columns"] = {**recipe.columns, **given["columns"]}
        recipe = parse_recipe(given, recipe)
    recording, report = to_recording(cells, recipe)
    described = {**report.describe(), "header": header_key(cells.header)}
    return Inspected(fmt, described, recording, kept is not None)


def header_key(header: tuple[str, ...]) -> str:
    """What tells tables of one device: their header."""
    return "\x1f".join(header)
