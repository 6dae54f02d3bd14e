"""Bodies of documents that were read lately: what is stored is checked once, not each time that it is read."""

from collections import OrderedDict
from collections.abc import Mapping
from threading import Lock
from typing import Any

from dynaface.core.documents.kinds import read_body
from dynaface.core.documents.model.record import Body

MOST = 500  # bodies; a large one of a few thousand keys is about a megabyte

_held: OrderedDict[str, tuple[Mapping[str, Any], Body]] = OrderedDict()
_lock = Lock()


def body_of(document: str, kind: str, plain: Mapping[str, Any]) -> Body:
    """The body of a document as it is stored now; bodies are frozen, so that several may hold the same one. Raises InputError."""
    with _lock:
        found = _held.get(document)
        if found is not None:
            _held.move_to_end(document)
    # What is stored is compared, not its version: nothing that changed without one is overlooked.
    if found is not None and found[1].kind == kind and found[0] == plain:
        return found[1]
    body = read_body(kind, plain)
    with _lock:
        _held[document] = (plain, body)
        while len(_held) > MOST:
            _held.popitem(last=False)
    return body
