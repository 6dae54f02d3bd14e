"""Evaluating a take as far as a page or a person asks."""

from collections.abc import Sequence
from dataclasses import dataclass, replace
from typing import Any

import numpy as np

from dynaface.core.cast.crossings import WORDS as CROSSING_WORDS
from dynaface.core.cast.crossings import find_crossings
from dynaface.core.clock.rates import format_rate
from dynaface.core.curves.channels import Channels, Floats
from dynaface.core.evaluate.cache import Cache
from dynaface.core.evaluate.difference import changed_runs
from dynaface.core.evaluate.node import Node
from dynaface.core.perform.perform import Performance
from dynaface.services.take.prepare_take import PreparedTake, prepare_take
from dynaface.services.take.snapshot import Wish
from dynaface.services.work import Work


@dataclass(frozen=True)
class Piece:
    """Something of a take that is asked for. part: one of PARTS; have: the tag of the table that the asker holds, "" for none;
    first, last: frames, both included, None for all of them.
    """

    part: str
    have: str = ""
    first: int | None = None
    last: int | None = None


@dataclass(frozen=True)
class _Table:
    """columns: names; values: (frames, columns, size)."""

    columns: tuple[str, ...]
    values: Floats


def _curves(channels: Channels) -> _Table:
    return _Table(channels.names, channels.values[:, :, None])


def _motion(made: Performance) -> _Table:
    return _Table(made.joints, made.local)


def _root(made: Performance) -> _Table:
    return _Table((made.root_joint,), made.root[:, None])


def _shifts(made: Performance) -> _Table:
    columns = [made.shifts[j] for j in made.shifts]
    values = np.stack(columns, axis=1) if columns else np.zeros((made.channels.frames, 0, 3), np.float32)
    return _Table(tuple(made.shifts), values)


TABLES: dict[str, tuple[str, Any]] = {
    "raw": ("raw", _curves),
    "tidied": ("tidied", _curves),
    "weights": ("cast", lambda made: _Table(made.targets, made.weights[:, :, None])),
    "motion": ("performed", _motion),
    "root": ("performed", _root),
    "shifts": ("performed", _shifts),
}
"""part -> (node of the graph, its result as a table)."""
PARTS = tuple(TABLES)


def evaluate_take(work: Work, take: str, pieces: Sequence[Piece], wish: Wish | None = None
                  ) -> tuple[dict[str, Any], dict[str, np.ndarray]]:  # fmt: skip
    """(head, arrays) of the pieces asked for.

    The head says of each piece its part, tag (equal for equal content), columns and size. Of a table that the asker holds
    already only what changed is given: arrays "<part> runs" (n, 3) int32 and "<part>" (values, size) as `changed_runs` makes
    them; of others "<part>" is the table itself, (frames, columns * size). Parts that need a character are left out without one.
    """
    prepared = prepare_take(work, take, wish)
    channels = prepared.raw
    head: dict[str, Any] = {
        "frames": channels.frames,
        "rate": format_rate(channels.rate),
        "start": channels.start,
        "timecode": str(channels.timecode) if channels.timecode else "",
        "timecodeRate": format_rate(channels.timecode.rate) if channels.timecode else "",
        "channels": list(channels.names),
        "pieces": [],
    }
    arrays: dict[str, np.ndarray] = {}
    for piece in pieces:
        node = getattr(prepared.graph, TABLES[piece.part][0])
        if node is not None:
            head["pieces"].append(_piece(prepared.cache, node, piece, arrays))
    if any(p["part"] == "weights" for p in head["pieces"]):
        made = prepared.graph.cast.result(prepared.cache) if prepared.graph.cast else None
        assert made is not None
        head["still"] = [list(pair) for pair in made.still]
        head |= _contacts(prepared)
    if any(p["part"] == "root" for p in head["pieces"]):
        head["rootJoint"] = prepared.performance.root_joint
    return head, arrays


def _piece(cache: Cache, node: Node[Any], piece: Piece, arrays: dict[str, np.ndarray]) -> dict[str, Any]:
    """Says what a piece is and lays its arrays by."""
    as_table = TABLES[piece.part][1]
    if piece.part in ("raw", "tidied") and piece.first is not None:
        table, first = as_table(node.window(cache, piece.first, (piece.last or piece.first) + 1)), piece.first
    else:
        table, first = as_table(node.result(cache)), piece.first or 0
        stop = len(table.values) if piece.last is None else piece.last + 1
        table = replace(table, values=table.values[first:stop])
    said = {"part": piece.part, "tag": node.key, "columns": list(table.columns), "size": table.values.shape[2],
            "first": first, "count": len(table.values)}  # fmt: skip
    if piece.have == node.key:
        runs, values = changed_runs(table.values[:0], table.values[:0])
        arrays[f"{piece.part} runs"], arrays[piece.part] = runs, values
        return said | {"of": piece.have}
    held = cache.get(piece.have) if piece.have else None
    old = as_table(held) if held is not None else None
    if old is not None and old.columns == table.columns and len(old.values) >= first + len(table.values):
        runs, values = changed_runs(old.values[first : first + len(table.values)], table.values)
        runs[:, 1] += first
        arrays[f"{piece.part} runs"], arrays[piece.part] = runs, values
        return said | {"of": piece.have}
    arrays[piece.part] = table.values.reshape(len(table.values), -1)
    return said | {"of": ""}


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
