"""Files that come back: what they are and what they say."""

from fractions import Fraction

from dynaface.core.errors import InputError, said_of
from dynaface.core.returns.brought import Brought
from dynaface.formats.catalogue import HANDOVERS
from dynaface.formats.handover import HandoverForm


def returning_form(filename: str) -> HandoverForm:
    """The form of handover that reads files of this ending; raises InputError for one that cannot come back."""
    ending = f".{filename.rpartition('.')[2].lower()}"
    known = {e: form for form in HANDOVERS.values() if form.bring for e in form.written}
    if ending not in known:
        raise InputError(f"{filename} cannot come back as a layer", hint=f"Bring one of {', '.join(sorted(known))}")
    return known[ending]


def read_returned(data: bytes, filename: str, near: Fraction = Fraction(30)) -> dict[str, Brought]:
    """Characters of a file by name, "" for the only one; raises InputError. near: the rate that it was handed over at."""
    form = returning_form(filename)
    assert form.bring is not None
    with said_of(filename):
        return form.bring(data, near)
