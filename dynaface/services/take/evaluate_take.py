"""Evaluating a take as far as a page or a person asks."""

from collections.abc import Sequence
from typing import Any

import numpy as np

from dynaface.core.cast.crossings import WORDS as CROSSING_WORDS
from dynaface.core.cast.crossings import find_crossings
from dynaface.core.clock.rates import format_rate
from dynaface.core.evaluate.contacts_part import JoinedTake, contacts_part
from dynaface.services.pieces import Piece, gather_pieces, patch_pieces
from dynaface.services.take.prepare_take import PreparedTake, prepare_take
from dynaface.services.take.snapshot import Wish
from dynaface.services.work import Work


def evaluate_take(work: Work, take: str, pieces: Sequence[Piece], wish: Wish | None = None
                  ) -> tuple[dict[str, Any], dict[str, np.ndarray]]:  # fmt: skip
    """(head, arrays) of the pieces asked for, as `gather_pieces` makes them."""
    prepared = prepare_take(work, take, wish)
    channels = prepared.raw
    found, arrays = _patched(prepared, pieces) or gather_pieces(prepared.cache, prepared.graph, pieces)
    head: dict[str, Any] = {
        "frames": channels.frames,
        "rate": format_rate(channels.rate),
        "start": channels.start,
        "timecode": str(channels.timecode) if channels.timecode else "",
        "timecodeRate": format_rate(channels.timecode.rate) if channels.timecode else "",
        "channels": list(channels.names),
        **found,
    }
    if "still" in head:
        head |= _contacts(prepared)
    return head, arrays


def _patched(prepared: PreparedTake, pieces: Sequence[Piece]) -> tuple[dict[str, Any], dict[str, np.ndarray]] | None:
    """The pieces by what changes of those that the asker holds, where only contacts of the body are wished to be others and a stretch of
    the take changes; None elsewhere.
    """
    stored, character = prepared.before_contacts, prepared.snapshot.character
    if stored is None or character is None or not all(p.have for p in pieces):
        return None
    body = prepared.tidied_body
    if body is None:
        return None
    joints = prepared.snapshot.joints
    joined = JoinedTake(stored.graph, character, stored.sheet, body, stored.contacts, stored.touches, joints)
    part = contacts_part(joined, stored.snapshot.join, prepared.snapshot.join, prepared.cache)
    return None if part is None else patch_pieces(prepared.cache, stored.graph, prepared.graph, part, pieces)


def _contacts(prepared: PreparedTake) -> dict[str, Any]:
    """The contacts that are kept and where the mesh still goes through itself, for the deck."""
    character, node = prepared.snapshot.character, prepared.graph.cast
    study = character.study if character else None
    if node is None or study is None:
        return {"kept": [], "crossings": []}
    cast = node.result(prepared.cache)
    crossed = prepared.cache.get_or_make(
        f"crossings {node.key}", lambda: tuple(find_crossings(cast.targets, cast.weights, study.edges))
    )
    return {
        "kept": [
            {"kind": k.kind, "key": k.key, "first": k.first, "last": k.last, "before": k.before, "after": k.after, "on": k.on}
            for k in cast.kept
        ],
        "crossings": [
            {"kind": c.kind, "words": CROSSING_WORDS[c.kind], "first": c.first, "last": c.last, "peak": c.peak, "depth": c.depth}
            for c in crossed
        ],
    }  # fmt: skip
