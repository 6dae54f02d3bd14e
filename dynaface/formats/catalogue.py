"""All formats and all forms of handover, found by name."""

from dynaface.core.registry import discover
from dynaface.formats import entries, handovers
from dynaface.formats.format import Format, choose, size_checked
from dynaface.formats.handover import HandoverForm
from dynaface.formats.stored import Held, Stored

FORMATS: dict[str, Format] = discover(entries, "FORMAT")
HANDOVERS: dict[str, HandoverForm] = dict(
    sorted(discover(handovers, "FORM").items(), key=lambda pair: (pair[1].rank, pair[0]))
)
SNIFF = 65536


def format_of(data: bytes, filename: str) -> Format:
    """The format of a file's bytes; its size is checked against the format's limit."""
    return format_of_stored(Held(data), filename)


def format_of_stored(stored: Stored, filename: str) -> Format:
    """The same of a file wherever it lies, of which only the beginning, and of an archive the end, is read."""
    with stored.file() as file:
        head = file.read(SNIFF)
        if head[:2] == b"PK":  # an archive's list of files stands at its end
            file.seek(max(SNIFF, stored.size - SNIFF))
            head += file.read(SNIFF)
    fmt = choose(FORMATS, head, filename)
    size_checked(fmt, stored.size)
    return fmt


def of_kind(kind: str) -> list[Format]:
    """All formats of one kind."""
    return [f for f in FORMATS.values() if f.kind == kind]
