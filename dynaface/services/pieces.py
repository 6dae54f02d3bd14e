"""Pieces of an evaluation as a page asks for them: a table of a node's result, whole, in part, or what changed of it."""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, replace
from typing import Any

import numpy as np

from dynaface.core.curves.channels import Channels, Floats
from dynaface.core.evaluate.cache import Cache
from dynaface.core.evaluate.difference import changed_runs
from dynaface.core.evaluate.node import Node
from dynaface.core.evaluate.part import RolePart
from dynaface.core.evaluate.shot import RoleGraph
from dynaface.core.evaluate.take import TakeGraph
from dynaface.core.perform.held_props import HeldProps
from dynaface.core.perform.perform import Performance


@dataclass(frozen=True)
class Piece:
    """Something of a take that is asked for. part: one of TABLES; have: the tag of the table that the asker holds, "" for none;
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


def _props(held: HeldProps) -> _Table:
    """Metres and rotation of each prop, seven numbers a frame."""
    ways = [np.concatenate([c.way.at, c.way.turns], axis=1) for c in held.props.values()]
    return _Table(tuple(held.props), np.stack(ways, axis=1).astype(np.float32))


TABLES: dict[str, tuple[str, Any]] = {
    "raw": ("raw", _curves),
    "tidied": ("tidied", _curves),
    "weights": ("cast", lambda made: _Table(made.targets, made.weights[:, :, None])),
    "motion": ("performed", _motion),
    "root": ("performed", _root),
    "shifts": ("performed", _shifts),
    "joints": ("joints", _curves),
    "props": ("props", _props),
    "rigRaw": ("rig_raw", _curves),
    "rig": ("rig", _curves),
}
"""part -> (node of the graph, its result as a table)."""


def gather_pieces(cache: Cache, graph: TakeGraph | RoleGraph, pieces: Sequence[Piece]
                  ) -> tuple[dict[str, Any], dict[str, np.ndarray]]:  # fmt: skip
    """(head, arrays) of the pieces asked for.

    The head says of each piece its part, tag (equal for equal content), columns and size. Of a table that the asker holds
    already only what changed is given: arrays "<part> runs" (n, 3) int32 and "<part>" (values, size) as `changed_runs` makes
    them; of others "<part>" is the table itself, (frames, columns * size). Parts that need a character are left out without one.
    """
    said: list[dict[str, Any]] = []
    arrays: dict[str, np.ndarray] = {}
    for piece in pieces:
        node = getattr(graph, TABLES[piece.part][0], None)
        if node is not None:
            said.append(_piece(cache, node, piece, arrays))
    return {"pieces": said, **_about(cache, graph, said)}, arrays


def patch_pieces(cache: Cache, graph: TakeGraph | RoleGraph, wished: TakeGraph | RoleGraph, part: RolePart, pieces: Sequence[Piece]
                 ) -> tuple[dict[str, Any], dict[str, np.ndarray]] | None:  # fmt: skip
    """(head, arrays) as `gather_pieces` gives them for the wished graph, of which only a part differs from what the asker holds, which is
    of the other graph. None where the asker holds something else.
    """
    said: list[dict[str, Any]] = []
    arrays: dict[str, np.ndarray] = {}
    changed = {name: getattr(part, name) for name in ("tidied", "cast", "performed", "rig_raw", "rig", "joints")}
    for piece in pieces:
        name, as_table = TABLES[piece.part]
        node = getattr(graph, name, None)
        if node is None:
            continue
        if piece.have != node.key or piece.first is not None:
            return None
        old = as_table(node.result(cache))
        new = as_table(changed[name]) if changed.get(name) is not None else None
        if new is not None and new.columns != old.columns:
            return None
        _lay_changes(arrays, piece.part, old.values, old.values[:0] if new is None else new.values, part.first)
        said.append({"part": piece.part, "tag": getattr(wished, name).key, "columns": list(old.columns), "size": old.values.shape[2],
                     "first": 0, "count": len(old.values), "of": node.key})  # fmt: skip
    return {"pieces": said, **_about(cache, graph, said)}, arrays


def _lay_changes(arrays: dict[str, np.ndarray], part: str, old: Floats, new: Floats, first: int) -> None:
    """Lays by the runs that make the new frames, from `first` on, of a whole older table."""
    runs, values = changed_runs(old[first : first + len(new)], new)
    runs[:, 1] += first
    arrays[f"{part} runs"], arrays[part] = runs, values


def _about(cache: Cache, graph: TakeGraph | RoleGraph, said: Sequence[Mapping[str, Any]]) -> dict[str, Any]:
    """What is said beside the pieces."""
    head: dict[str, Any] = {}
    parts = {p["part"] for p in said}
    if "weights" in parts and graph.cast is not None:
        head["still"] = [list(pair) for pair in graph.cast.result(cache).still]
    if "root" in parts and graph.performed is not None:
        head["rootJoint"] = graph.performed.result(cache).root_joint
    held = getattr(graph, "props", None)
    if "props" in parts and held is not None:
        short = {hold: far for carried in held.result(cache).props.values() for hold, far in carried.short.items()}
        head["short"] = {hold: None if np.isnan(far) else round(far, 4) for hold, far in short.items()}
    return head


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
        _lay_changes(arrays, piece.part, table.values, table.values[:0], 0)
        return said | {"of": piece.have}
    held = cache.get(piece.have) if piece.have else None
    old = as_table(held) if held is not None else None
    if old is not None and old.columns == table.columns and len(old.values) >= first + len(table.values):
        _lay_changes(arrays, piece.part, old.values, table.values, first)
        return said | {"of": piece.have}
    arrays[piece.part] = table.values.reshape(len(table.values), -1)
    return said | {"of": ""}
