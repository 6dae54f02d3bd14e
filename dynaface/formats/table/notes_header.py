"""The header of a notes sheet, which tells it from other tables."""

SLATE = ("slate", "take", "shot", "clip", "name", "slate/take")
CIRCLED = ("circled", "circle", "keep", "keeper", "print", "good", "select")
NOTES = ("notes", "note", "comment", "comments", "remarks")
START = ("start", "start timecode", "start tc", "tc start", "tc in", "timecode in")
RATE = ("rate", "fps", "frame rate", "timecode rate", "tc rate")


def notes_header(line: str) -> bool:
    """Whether a first line is that of a notes sheet: it names the slate, and circles, notes or starts."""
    cells = {c.strip().strip('"').casefold() for c in line.replace("\t", ",").replace(";", ",").split(",")}
    return bool(cells & set(SLATE)) and bool(cells & {*CIRCLED, *NOTES, *START})
