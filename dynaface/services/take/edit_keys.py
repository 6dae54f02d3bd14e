"""Keys of a take: reducing channels to keys, and every edit of them in the time deck.

An edit is {"do": NAME, "channels": {channel: [ids of the chosen keys]}, ...}. A channel that holds keys is edited as
it is; on a dense one what is drawn or brushed becomes a correction on top, so that what lies beneath stays.
"""

from collections.abc import Callable, Mapping
from dataclasses import replace
from typing import Any
from uuid import uuid4

import numpy as np

from dynaface.core import checks
from dynaface.core.curves import key_edits
from dynaface.core.curves.channels import Channels, Floats
from dynaface.core.curves.gaps import bridged
from dynaface.core.curves.keys import Key, Keys, evaluate_keys, parse_keys
from dynaface.core.curves.reduce import TOLERANCE, reduce
from dynaface.core.documents.changes import path_of
from dynaface.core.documents.model.take import TakeBody
from dynaface.core.errors import InputError
from dynaface.core.records.records import Document
from dynaface.core.shapes.pairs import SIDES
from dynaface.core.shapes.standard import full_range
from dynaface.core.tidy.hand import Hand
from dynaface.services.edit_document import change_document
from dynaface.services.take.prepare_take import PreparedTake, prepare_take
from dynaface.services.work import Work

MAX_DRAWN = 4000  # frames of one stroke
Edit = Mapping[str, Any]


def edit_keys(work: Work, take: str, version: int, label: str, edit: Edit) -> tuple[Document[TakeBody], dict[str, Any]]:
    """Makes an edit and keeps it: (take, what it did by channel). It can be undone."""
    prepared = prepare_take(work, take)
    made, report = _edited(prepared, edit)
    return change_document(work, take, TakeBody, version, label, _changes(prepared, made)), report


def changes_of_edit(work: Work, take: str, edit: Edit) -> list[dict[str, Any]]:
    """What an edit would change in the take: for a preview."""
    prepared = prepare_take(work, take)
    return _changes(prepared, _edited(prepared, edit)[0])


def _changes(prepared: PreparedTake, made: Mapping[str, Hand | None]) -> list[dict[str, Any]]:
    """The changes to a take that bring channels there; of a channel that holds keys already, only the keys that differ."""
    out: list[dict[str, Any]] = []
    for channel, after in made.items():
        before, path = prepared.take.body.by_hand.get(channel), path_of("hand", channel)
        if after is None:
            out.append({"path": path, "remove": True})
            continue
        plain = Hand(after.mode, _with_ids(after.keys)).plain()
        if before is None or before.mode != after.mode:
            out.append({"path": path, "value": plain})
            continue
        old, new = before.plain()["keys"], plain["keys"]
        out += [{"path": f"{path}/keys/{i}", "remove": True} for i in old if i not in new]
        out += [{"path": f"{path}/keys/{i}", "value": row} for i, row in new.items() if old.get(i) != row]
    return out


def _with_ids(keys: Keys) -> Keys:
    """Each key with an id of its own; a key that has one keeps it. New ids are random, so that two people never choose the
    same one.
    """
    taken: set[str] = set()
    out = []
    for key in keys:
        name = key.id if key.id and key.id not in taken else uuid4().hex[:12]
        taken.add(name)
        out.append(replace(key, id=name))
    return tuple(out)


def _edited(prepared: PreparedTake, edit: Edit) -> tuple[dict[str, Hand | None], dict[str, Any]]:
    """(channel -> its keys after the edit, None where there are none any more; a report by channel)."""
    name = checks.one_of("do", edit.get("do"), EDITS)
    channels = edit.get("channels", {})
    if not isinstance(channels, Mapping) or not channels:
        raise InputError("an edit of keys names no channel", hint="Choose channels in the region chart")
    hand, curves = prepared.take.body.by_hand, (prepared.raw, prepared.stacked, prepared.tidied)
    out: dict[str, Hand | None] = {}
    report: dict[str, Any] = {}
    for channel, chosen in channels.items():
        checks.one_of("channel", channel, prepared.tidied.names)
        held = hand.get(channel)
        made = EDITS[name](_Case(channel, held, _numbers(channel, chosen, held), curves, hand, edit))
        for changed, entry in made.items():
            out[changed] = entry if entry is not None and entry.keys else None
            if entry is not None:
                report[changed] = _report(entry, prepared.stacked, changed)
    return out, report


def _numbers(channel: str, chosen: Any, held: Hand | None) -> frozenset[int]:
    """Numbers, counted from 0, of the keys that are named by their ids."""
    number = {key.id: n for n, key in enumerate(held.keys)} if held else {}
    if not isinstance(chosen, list) or any(not isinstance(k, str) for k in chosen):
        raise InputError(f"the keys of {channel} are {chosen!r:.80}; they must be a list of their ids")
    gone = [k for k in chosen if k not in number]
    if gone:
        raise InputError(f"{channel} has no key {gone[0]!r} any more", hint="Choose the keys again")
    return frozenset(number[k] for k in chosen)


def _report(entry: Hand, beneath: Channels, channel: str) -> dict[str, Any]:
    dense = beneath.column(channel)
    curve = evaluate_keys(entry.keys, len(dense))
    apart = np.abs(curve - dense if entry.mode == "keys" else curve)
    known = apart[np.isfinite(apart)]
    worst, mean = (float(known.max()), float(known.mean())) if known.size else (0.0, 0.0)
    return {"mode": entry.mode, "keys": len(entry.keys), "worst": round(worst, 6), "mean": round(mean, 6)}


class _Case:
    """One channel of an edit: what it holds, what lies beneath, and what was asked."""

    def __init__(self, channel: str, held: Hand | None, chosen: frozenset[int], takes: tuple[Channels, Channels, Channels],
                 hand: Mapping[str, Hand], edit: Edit) -> None:  # fmt: skip
        self.channel, self.held, self.chosen, self.hand, self.edit = channel, held, chosen, hand, edit
        self.raw, self.beneath, self.now = (t.column(channel) for t in takes)
        self.rate = float(takes[0].rate)

    def number(self, name: str, default: float = 0.0, low: float = -1e6, high: float = 1e6) -> float:
        """A number of the edit."""
        return checks.within(name, self.edit.get(name, default), low, high)

    @property
    def tolerance(self) -> float:
        """In the channel's own units."""
        return self.number("tolerance", TOLERANCE, 0.0005, 0.2) * full_range(self.channel)

    @property
    def snap(self) -> bool:
        """Whether keys stay on whole frames."""
        return bool(self.edit.get("snap", True))

    @property
    def keys(self) -> Keys:
        """The keys that the channel holds; raises InputError where it holds none."""
        if self.held is None:
            raise InputError(f"{self.channel} holds no keys", hint="Reduce it to keys first, or draw on it")
        return self.held.keys

    def with_keys(self, keys: Keys) -> dict[str, Hand | None]:
        """The channel with other keys in the same mode."""
        assert self.held is not None
        return {self.channel: Hand(self.held.mode, keys)}

    def with_curve(self, first: int, curve: Floats) -> dict[str, Hand | None]:
        """The channel so that it is `curve` from frame `first` on, as keys or as a correction on top."""
        if self.held is not None and self.held.mode == "keys":
            return {self.channel: Hand("keys", key_edits.reshape(self.held.keys, first, curve, self.tolerance))}
        offset = curve - np.nan_to_num(self.beneath[first : first + len(curve)])
        keys = self.held.keys if self.held else ()
        made = list(key_edits.reshape(keys, first, offset.astype(np.float32), self.tolerance))
        last = first + len(curve) - 1
        # What lies outside the stroke stays: a correction begins and ends at what it was there.
        for frame in (first - 1, last + 1):
            if not any(k.frame == frame for k in made) and 0 <= frame < len(self.beneath):
                made.append(Key(float(frame), float(evaluate_keys(keys, 1, frame)[0]), kind="free"))
        return {self.channel: Hand("offset", key_edits.ordered(made))}

    def span(self) -> tuple[int, int]:
        """First and last frame of the edit, within the take."""
        last = len(self.beneath) - 1
        first, end = int(self.number("first", 0, 0)), int(self.number("last", last, 0))
        if end < first or first > last:
            raise InputError(f"frames {first} to {end} are no stretch of this take of {last + 1} frames")
        return first, min(end, last)


def _reduce(case: _Case) -> dict[str, Hand | None]:
    made = reduce(case.now, case.rate, case.tolerance)
    if not made.keys:
        raise InputError(f"{case.channel} has no values at all", hint="Choose another channel")
    return {case.channel: Hand("keys", made.keys)}


def _clear(case: _Case) -> dict[str, Hand | None]:
    return {case.channel: None}


def _correct(case: _Case) -> dict[str, Hand | None]:
    if case.held is not None:
        return {case.channel: case.held}
    last = float(len(case.beneath) - 1)
    return {case.channel: Hand("offset", (Key(0.0, 0.0, kind="flat"), Key(last, 0.0, kind="flat")))}


def _insert(case: _Case) -> dict[str, Hand | None]:
    frame = case.number("frame", 0, 0, len(case.beneath) - 1)
    frame = float(round(frame)) if case.snap else frame
    value = None if case.edit.get("value") is None else case.number("value")
    keys = case.keys
    if value is not None and case.held is not None and case.held.mode == "offset":
        beneath = np.nan_to_num(case.beneath)
        value -= float(np.interp(frame, np.arange(len(beneath)), beneath))
    return case.with_keys(key_edits.insert(keys, frame, value))


def _delete(case: _Case) -> dict[str, Hand | None]:
    return case.with_keys(key_edits.delete(case.keys, case.chosen, bool(case.edit.get("refit", False))))


def _move(case: _Case) -> dict[str, Hand | None]:
    return case.with_keys(
        key_edits.move(case.keys, case.chosen, case.number("frames"), case.number("value"), case.snap)
    )


def _scale(case: _Case) -> dict[str, Hand | None]:
    return case.with_keys(key_edits.scale(
        case.keys, case.chosen, case.number("about"), case.number("time", 1), case.number("level"),
        case.number("value", 1), case.snap,
    ))  # fmt: skip


def _tangents(case: _Case) -> dict[str, Hand | None]:
    weight = case.edit.get("weight")
    return case.with_keys(key_edits.tangents(case.keys, case.chosen, str(case.edit.get("kind")), weight))


def _slope(case: _Case) -> dict[str, Hand | None]:
    before, after = (None if case.edit.get(n) is None else case.number(n) for n in ("before", "after"))
    return case.with_keys(key_edits.slope(case.keys, case.chosen, before, after))


def _value(case: _Case) -> dict[str, Hand | None]:
    return case.with_keys(key_edits.values(case.keys, case.chosen, case.number("value")))


def _paste(case: _Case) -> dict[str, Hand | None]:
    rows = case.edit.get("copied", {})
    if not isinstance(rows, Mapping):
        raise InputError("copied must be a table of keys by channel")
    copied = parse_keys(rows.get(case.channel, []), case.channel)
    return case.with_keys(key_edits.paste(case.keys, copied, case.number("frame"), case.number("value")))


def _mirror(case: _Case) -> dict[str, Hand | None]:
    other = next((b if a == case.channel else a for a, b in SIDES if case.channel in (a, b)), None)
    if other is None:
        raise InputError(f"{case.channel} has no other side")
    assert case.keys
    theirs = case.hand.get(other)
    if case.held is not None and case.chosen and theirs is not None and theirs.mode == case.held.mode:
        copied = [case.keys[i] for i in sorted(case.chosen)]
        return {other: Hand(theirs.mode, key_edits.ordered([*theirs.keys, *copied]))}
    return {other: case.held}


def _draw(case: _Case) -> dict[str, Hand | None]:
    points = case.edit.get("points", [])
    if not isinstance(points, list) or not 2 <= len(points) <= MAX_DRAWN:
        raise InputError(f"a stroke has 2 to {MAX_DRAWN} points")
    if any(not isinstance(p, list) or len(p) != 2 for p in points):
        raise InputError("each point of a stroke must be a frame and a value")
    table = np.array([[checks.within("frame", p[0], 0, 1e7), checks.within("value", p[1], -1e4, 1e4)] for p in points])
    table = table[np.argsort(table[:, 0], kind="stable")]
    last = len(case.beneath) - 1
    first, end = int(np.ceil(table[0, 0])), min(int(np.floor(table[-1, 0])), last)
    if end <= first:
        raise InputError("the stroke crosses no frame", hint="Draw farther to the side")
    return case.with_curve(first, np.interp(np.arange(first, end + 1), table[:, 0], table[:, 1]).astype(np.float32))


def _brush(case: _Case) -> dict[str, Hand | None]:
    centre, size = case.number("centre", 0, 0), case.number("size", 10, 1, 600)
    first, last = max(0, int(centre - size)), min(len(case.now) - 1, int(centre + size))
    if last - first < 2:
        raise InputError("the brush touches no frame of this take")
    curve = bridged(case.now[first : last + 1, None])[:, 0]
    made = key_edits.brushed(curve, centre - first, size, case.number("amount", 0.5), str(case.edit.get("way", "smooth")),
                             case.number("value"))  # fmt: skip
    return case.with_curve(first, made)


def _restore(case: _Case) -> dict[str, Hand | None]:
    """A range as it was before anything was done by hand, or as the device wrote it."""
    first, last = case.span()
    raw = checks.one_of("to", case.edit.get("to", "stack"), ("stack", "raw")) == "raw"
    if case.held is None and not raw:
        return {case.channel: None}
    earlier = case.raw if raw else case.beneath
    return case.with_curve(first, bridged(earlier[first : last + 1, None])[:, 0])


EDITS: dict[str, Callable[[_Case], dict[str, Hand | None]]] = {
    "reduce": _reduce, "clear": _clear, "correct": _correct, "insert": _insert, "delete": _delete, "move": _move,
    "scale": _scale, "tangents": _tangents, "slope": _slope, "value": _value, "paste": _paste, "mirror": _mirror,
    "draw": _draw, "brush": _brush, "restore": _restore,
}  # fmt: skip
"""What can be done, by name."""
