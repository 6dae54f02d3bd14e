"""Rotations of joints among the numbers of a sender of any layout: found by length and name."""

import re
from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field, replace

import numpy as np

from dynaface.core.feed.body_messages import unit
from dynaface.core.feed.packet import Packet, Place
from dynaface.core.match.names import part_of

LEAST_ROWS = 10  # packets in which a group must be a rotation
LEAST_JOINTS = 3
UNIT = 0.02  # by which the length of a rotation may be off
FAR = 10.0  # of hips above the ground: more are no metres
_PART = re.compile(r"^(?P<base>.+?)(?:\[(?P<n>\d)\]|[./_ ](?P<d>\d)|[./_ ]?(?<![A-Za-z])q?(?P<axis>[xyzwXYZW]))$")
_WORDS = re.compile(r"[/. ]+")
_AXES = {"x": 0, "y": 1, "z": 2, "w": 3}


@dataclass(frozen=True)
class LearnedBody:
    """turns: joint -> the signals of its rotation in the order x, y, z, w; root: those of the hips' place, () for none; scale: metres a unit of
    it; taken: all signals that are of the body.
    """

    turns: Mapping[str, tuple[str, ...]] = field(default_factory=dict)
    root: tuple[str, ...] = ()
    scale: float = 1.0

    @property
    def taken(self) -> frozenset[str]:
        """Signals that are no part of a face."""
        return frozenset(n for names in (*self.turns.values(), self.root) for n in names)

    def read(self, packet: Packet) -> Packet:
        """A packet with what is of the body taken out of its values."""
        values, joints = dict(packet.values), {}
        for joint, names in self.turns.items():
            turn = unit([values.pop(n) for n in names]) if all(n in values for n in names) else None
            if turn is not None:
                joints[joint] = turn
        root: Place | None = None
        if self.root and all(n in values for n in self.root):
            x, y, z = (values.pop(n) * self.scale for n in self.root)
            root = x, y, z
        return replace(packet, values=values, joints=joints, root=root)


NO_BODY = LearnedBody()


def learn_body(rows: Sequence[Mapping[str, float]]) -> LearnedBody:
    """The joints that packets, each signal -> value, bring; `NO_BODY` where there are fewer than `LEAST_JOINTS` with names of a body. Seven numbers
    are a place and a rotation. Which of four is w is found from all of them: near rest it is the largest.
    """
    groups = _groups(rows)
    found: dict[str, tuple[str, ...]] = {}
    places: dict[str, tuple[str, ...]] = {}
    for base, names in groups.items():
        joint = _joint(base)
        turn = next((t for t in (names[3:7], names[:4]) if len(t) == 4 and _is_turn(rows, t)), None)
        if turn is not None and len(names) in (4, 7):
            found.setdefault(joint, turn)
        rest = tuple(n for n in names if n not in (turn or ()))
        if len(rest) == 3 and (part_of(joint) or ("",))[0] == "hips":
            places.setdefault(joint, rest)
    if sum(part_of(joint) is not None for joint in found) < LEAST_JOINTS:
        return NO_BODY
    sizes = np.array([[np.mean([abs(r[n]) for r in rows if n in r]) for n in names] for names in found.values()])
    if sizes[:, 0].sum() > sizes[:, 3].sum():
        found = {joint: (*names[1:], names[0]) for joint, names in found.items()}
    root = next(iter(places.values()), ())
    high = np.median([abs(r[root[1]]) for r in rows if root[1] in r]) if root else 0.0
    return LearnedBody(found, root, 0.01 if high > FAR else 1.0)


def _groups(rows: Sequence[Mapping[str, float]]) -> dict[str, tuple[str, ...]]:
    """Name -> its signals, of those that are counted from 0 on or named by axes."""
    found: dict[str, dict[int, str]] = {}
    for signal in dict.fromkeys(n for row in rows for n in row):
        part = _PART.match(signal)
        if part:
            place = _AXES[part["axis"].lower()] if part["axis"] else int(part["n"] or part["d"])
            found.setdefault(part["base"].rstrip("/. _"), {}).setdefault(place, signal)
    whole = {b: g for b, g in found.items() if sorted(g) == list(range(len(g)))}
    return {base: tuple(group[n] for n in range(len(group))) for base, group in whole.items()}


def _is_turn(rows: Sequence[Mapping[str, float]], names: Sequence[str]) -> bool:
    known = np.array([[row[n] for n in names] for row in rows if all(n in row for n in names)])
    return len(known) >= LEAST_ROWS and bool((np.abs(np.linalg.norm(known, axis=1) - 1) < UNIT).all())


def _joint(base: str) -> str:
    """The word of a name that is a part of a body, else the last one."""
    words = [w for w in _WORDS.split(base) if w]
    return next((w for w in reversed(words) if part_of(w)), words[-1] if words else base)
