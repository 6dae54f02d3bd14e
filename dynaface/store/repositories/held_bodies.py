"""Bodies of documents that were read lately: what is stored is read and checked once, not each time that somebody asks.

A row is known by its place and by the transaction that wrote it (ctid and xmin of PostgreSQL), which change with every write, be it with a
new version or without; so nothing that was changed past the application is overlooked.
"""

from collections import OrderedDict
from collections.abc import Mapping
from threading import Lock
from typing import Any

from dynaface.core.documents.kinds import read_body
from dynaface.core.documents.model.record import Body

MOST = 500  # bodies; a large one of a few thousand keys is about a megabyte

_held: OrderedDict[str, tuple[str, Body]] = OrderedDict()
_lock = Lock()


def held_body(document: str, kind: str, written: str) -> Body | None:
    """The body of a document as this row has it, if it is held; bodies are frozen, so that several may hold the same one."""
    with _lock:
        found = _held.get(document)
        if found is None or found[0] != written or found[1].kind != kind:
            return None
        _held.move_to_end(document)
        return found[1]


def hold_body(document: str, kind: str, written: str, plain: Mapping[str, Any]) -> Body:
    """The body of a document read from its row, which is held from now on. Raises InputError."""
    body = read_body(kind, plain)
    with _lock:
        _held[document] = (written, body)
        _held.move_to_end(document)
        while len(_held) > MOST:
            _held.popitem(last=False)
    return body
