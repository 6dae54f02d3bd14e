"""The key kit: everything that can be done to keys in the time deck, by name, whatever holds them.

An edit is {"do": NAME, "channels": {channel: [ids of the chosen keys]}, ...}.
"""

from collections.abc import Callable, Collection, Mapping
from typing import Any

import numpy as np

from dynaface.core import checks
from dynaface.core.curves import key_edits
from dynaface.core.curves.channels import Floats
from dynaface.core.curves.gaps import bridged
from dynaface.core.curves.held import Held
from dynaface.core.curves.keys import evaluate_keys, parse_keys
from dynaface.core.errors import InputError
from dynaface.core.keying.case import Edit, KeyCase, Made

MAX_DRAWN = 4000  # frames of one stroke
CaseOf = Callable[[str, Held | None, frozenset[int]], KeyCase]
"""(channel, what it holds, numbers of its chosen keys) -> the case."""


def edited_keys(edit: Edit, names: Collection[str], held: Mapping[str, Held], case_of: CaseOf
                ) -> tuple[Made, dict[str, Any]]:  # fmt: skip
    """(what an edit makes of channels; a report by channel). names: channels that it may be about; raises InputError."""
    name = checks.one_of("do", edit.get("do"), EDITS)
    channels = edit.get("channels", {})
    if not isinstance(channels, Mapping) or not channels:
        raise InputError("an edit of keys names no channel", hint="Choose channels in the region chart")
    out: Made = {}
    report: dict[str, Any] = {}
    for channel, chosen in channels.items():
        checks.one_of("channel", channel, names)
        own = held.get(channel)
        case = case_of(channel, own, _numbers(channel, chosen, own))
        for changed, entry in EDITS[name](case).items():
            out[changed] = entry if entry is not None and entry.keys else None
            if entry is not None:
                beneath = case if changed == channel else case_of(changed, held.get(changed), frozenset())
                report[changed] = _report(entry, beneath.column.beneath)
    return out, report


def _numbers(channel: str, chosen: Any, held: Held | None) -> frozenset[int]:
    """Numbers, counted from 0, of the keys that are named by their ids."""
    number = {key.id: n for n, key in enumerate(held.keys)} if held else {}
    if not isinstance(chosen, list) or any(not isinstance(k, str) for k in chosen):
        raise InputError(f"the keys of {channel} are {chosen!r:.80}; they must be a list of their ids")
    gone = [k for k in chosen if k not in number]
    if gone:
        raise InputError(f"{channel} has no key {gone[0]!r} any more", hint="Choose the keys again")
    return frozenset(number[k] for k in chosen)


def _report(entry: Held, beneath: Floats) -> dict[str, Any]:
    curve = evaluate_keys(entry.keys, len(beneath))
    apart = np.abs(curve - beneath if entry.mode == "keys" else curve)
    known = apart[np.isfinite(apart)]
    worst, mean = (float(known.max()), float(known.mean())) if known.size else (0.0, 0.0)
    return {"mode": entry.mode, "keys": len(entry.keys), "worst": round(worst, 6), "mean": round(mean, 6)}


def _insert(case: KeyCase) -> Made:
    frame = case.number("frame", 0, 0, case.frames - 1)
    frame = float(round(frame)) if case.snap else frame
    keys = case.keys
    value = None if case.edit.get("value") is None else case.number("value")
    return case.with_keys(key_edits.insert(keys, frame, case.said(frame, value)))


def _delete(case: KeyCase) -> Made:
    return case.with_keys(key_edits.delete(case.keys, case.chosen, bool(case.edit.get("refit", False))))


def _move(case: KeyCase) -> Made:
    return case.with_keys(
        key_edits.move(case.keys, case.chosen, case.number("frames"), case.number("value"), case.snap)
    )


def _scale(case: KeyCase) -> Made:
    return case.with_keys(key_edits.scale(
        case.keys, case.chosen, case.number("about"), case.number("time", 1), case.number("level"),
        case.number("value", 1), case.snap,
    ))  # fmt: skip


def _tangents(case: KeyCase) -> Made:
    weight = case.edit.get("weight")
    return case.with_keys(key_edits.tangents(case.keys, case.chosen, str(case.edit.get("kind")), weight))


def _slope(case: KeyCase) -> Made:
    before, after = (None if case.edit.get(n) is None else case.number(n) for n in ("before", "after"))
    return case.with_keys(key_edits.slope(case.keys, case.chosen, before, after))


def _value(case: KeyCase) -> Made:
    return case.with_keys(key_edits.values(case.keys, case.chosen, case.number("value")))


def _paste(case: KeyCase) -> Made:
    rows = case.edit.get("copied", {})
    if not isinstance(rows, Mapping):
        raise InputError("copied must be a table of keys by channel")
    copied = parse_keys(rows.get(case.channel, []), case.channel)
    return case.with_keys(key_edits.paste(case.keys, copied, case.number("frame"), case.number("value")))


def _mirror(case: KeyCase) -> Made:
    other = case.other_side
    if other is None:
        raise InputError(f"{case.channel} has no other side")
    assert case.keys
    theirs = case.beside.get(other)
    if case.held is not None and case.chosen and theirs is not None and theirs.mode == case.held.mode:
        copied = [case.keys[i] for i in sorted(case.chosen)]
        return {other: Held(theirs.mode, key_edits.ordered([*theirs.keys, *copied]))}
    return {other: case.held}


def _draw(case: KeyCase) -> Made:
    points = case.edit.get("points", [])
    if not isinstance(points, list) or not 2 <= len(points) <= MAX_DRAWN:
        raise InputError(f"a stroke has 2 to {MAX_DRAWN} points")
    if any(not isinstance(p, list) or len(p) != 2 for p in points):
        raise InputError("each point of a stroke must be a frame and a value")
    table = np.array([[checks.within("frame", p[0], 0, 1e7), checks.within("value", p[1], -1e4, 1e4)] for p in points])
    table = table[np.argsort(table[:, 0], kind="stable")]
    first, end = int(np.ceil(table[0, 0])), min(int(np.floor(table[-1, 0])), case.frames - 1)
    if end <= first:
        raise InputError("the stroke crosses no frame", hint="Draw farther to the side")
    return case.with_curve(first, np.interp(np.arange(first, end + 1), table[:, 0], table[:, 1]).astype(np.float32))


def _brush(case: KeyCase) -> Made:
    centre, size = case.number("centre", 0, 0), case.number("size", 10, 1, 600)
    first, last = max(0, int(centre - size)), min(case.frames - 1, int(centre + size))
    if last - first < 2:
        raise InputError("the brush touches no frame here")
    curve = bridged(case.column.now[first : last + 1, None])[:, 0]
    made = key_edits.brushed(curve, centre - first, size, case.number("amount", 0.5), str(case.edit.get("way", "smooth")),
                             case.number("value"))  # fmt: skip
    return case.with_curve(first, made)


def _restore(case: KeyCase) -> Made:
    """A range as it was before anything was keyed, or as the device wrote it."""
    first, last = case.span()
    raw = checks.one_of("to", case.edit.get("to", "stack"), ("stack", "raw")) == "raw"
    return {case.channel: None} if case.held is None and not raw else case.restored(first, last, raw)


EDITS: dict[str, Callable[[KeyCase], Made]] = {
    "reduce": lambda case: case.reduced(), "clear": lambda case: {case.channel: None}, "correct": lambda case: case.begun(),
    "insert": _insert, "delete": _delete, "move": _move, "scale": _scale, "tangents": _tangents, "slope": _slope, "value": _value,
    "paste": _paste, "mirror": _mirror, "draw": _draw, "brush": _brush, "restore": _restore,
}  # fmt: skip
"""What can be done, by name."""
