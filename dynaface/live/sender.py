"""One performer of one sender: how its packets arrive, how they are read, and what is shown of them."""

import time
from collections import deque
from dataclasses import dataclass, field, replace
from typing import Any

import numpy as np

from dynaface.core.curves.channels import Floats
from dynaface.core.feed.arrivals import Arrivals
from dynaface.core.feed.packet import MOST_SIGNALS, Packet
from dynaface.core.feed.profile import FeedProfile, Shaper
from dynaface.core.shapes.standard import CHANNELS
from dynaface.formats.feed_reading import SignalReader, learn
from dynaface.formats.table.recipe import Recipe

PRE_ROLL = 5.0  # seconds that are kept of what came before a recording begins
MOST_KEPT = 1500  # packets of it
MOMENT = 0.5  # seconds whose middle is taken for a neutral or an extreme
LEARNED_FROM = 60  # packets by which values are understood
LEARN_FOR = 600  # packets within which what arrives is looked at often, to understand it
FIRST = 1 / 60  # seconds that the first packet is thought to be after another
EVERY, SELDOM = 12, 240  # packets between looks then, and later: a head that keeps still for long may turn at last
GONE = 600.0  # seconds of silence after which a sender that nobody records is forgotten


@dataclass(frozen=True)
class Heard:
    """A packet with when it came: seconds since the sender's first, and the machine's clock (seconds since 1970). row, made, shown:
    (channels,) as it was read, as the profile makes it, and smoothed.
    """

    packet: Packet
    seconds: float
    wall: float
    row: Floats
    made: Floats
    shown: Floats


@dataclass
class Sender:
    """number: by which the page calls it; host: where it is; how: "OSC" or "WebSocket"; called: the performer as the sender says; shaped:
    whether the performer's profile does more than smooth.
    """

    number: int
    host: str
    how: str
    called: str
    production: str = ""
    performer: str = ""
    recipe: Recipe = field(default_factory=Recipe)
    kept: bool = False
    arrivals: Arrivals = field(default_factory=Arrivals)
    recent: deque[Heard] = field(default_factory=lambda: deque(maxlen=MOST_KEPT))
    values: dict[str, float] = field(default_factory=dict)
    low: dict[str, float] = field(default_factory=dict)
    high: dict[str, float] = field(default_factory=dict)
    joints: tuple[str, ...] = ()
    packets: int = 0
    shaped: bool = False
    _reader: SignalReader | None = None
    _shaper: Shaper = field(default_factory=lambda: Shaper(FeedProfile()))
    _row: Floats = field(default_factory=lambda: _unknown())

    @property
    def key(self) -> str:
        """By which how it is read is kept."""
        return f"{self.host} {self.called}".strip()

    @property
    def name(self) -> str:
        """For people."""
        return self.performer or self.called or self.host

    def use(self, profile: FeedProfile) -> None:
        """What is made of its values from now on."""
        self._shaper, self.shaped = Shaper(profile), not profile.plain

    def read_by(self, recipe: Recipe, kept: bool) -> None:
        """How it is read from now on."""
        self.recipe, self.kept = recipe, kept
        self._reader = SignalReader(recipe)
        self._row = _unknown()

    def heard(self, packet: Packet, now: float) -> tuple[Heard, bool]:
        """Takes a packet in: what it is, and whether it is newer than what is shown."""
        before = self.arrivals.last
        kind = self.arrivals.heard(packet, now)
        seconds = self.arrivals.seconds(packet, now)
        self.packets += 1
        if kind == "new":
            self._note(packet)
        row = self._row.copy()
        if self._reader is not None:
            self._reader.read_into(row, packet.values)
        if kind == "new":  # what comes late is recorded as what it is, and nothing goes on from it
            self._row = row
        made = self._shaper.made(row)
        shown = self._shaper.smoothed(made, now - before if before is not None else FIRST) if kind == "new" else made
        found = Heard(packet, seconds, time.time(), row, made, shown)
        if kind != "doubled":
            self.recent.append(found)
        while self.recent and found.wall - self.recent[0].wall > PRE_ROLL:
            self.recent.popleft()
        return found, kind == "new"

    def kept_before(self) -> list[Heard]:
        """What came in the seconds before now, as the profile makes it now."""
        return [replace(h, made=self._shaper.made(h.row)) for h in self.recent]

    def moment(self) -> Floats:
        """(rows, channels) of the last moment, before the profile is applied."""
        last = self.recent[-1].wall if self.recent else 0.0
        rows = [h.row for h in self.recent if last - h.wall <= MOMENT]
        return np.array(rows, np.float32).reshape(len(rows), len(CHANNELS))

    def describe(self, now: float) -> dict[str, Any]:
        """For the page: how it arrives, and each signal with what it is read as."""
        age = self.arrivals.age(now)
        return {
            "sender": self.number,
            "host": self.host,
            "how": self.how,
            "called": self.called,
            "performer": self.performer,
            "rate": round(self.arrivals.rate(now), 1),
            "age": None if age is None else round(age, 2),
            "lost": self.arrivals.lost(now),
            "begun": self.arrivals.begun,
            "packets": self.packets,
            "joints": list(self.joints),
            "kept": self.kept,
            "percent": self.recipe.percent,
            "radians": self.recipe.radians,
            "flipped": list(self.recipe.flipped),
            "signals": [
                [n, self.recipe.columns.get(n, ""), round(v, 4), round(self.low[n], 4), round(self.high[n], 4)]
                for n, v in self.values.items()
            ],
            "shown": [round(float(v), 3) if np.isfinite(v) else None for v in self.recent[-1].shown]
            if self.recent
            else [],
        }

    def _note(self, packet: Packet) -> None:
        known = len(self.values)
        for name, value in packet.values.items():
            if name not in self.values and len(self.values) >= MOST_SIGNALS:
                continue  # names that change from packet to packet, as with a count in them
            self.values[name] = value
            self.low[name] = min(self.low.get(name, value), value)
            self.high[name] = max(self.high.get(name, value), value)
        if packet.joints:
            self.joints = tuple(packet.joints)
        every = EVERY if self.packets <= LEARN_FOR else SELDOM
        learning = not (self.kept or packet.ours) and self.packets % every == 1
        if len(self.values) != known or learning:
            self._understand(packet)

    def _understand(self, packet: Packet) -> None:
        """Names that are new get a place; until somebody has said how it is read, the guess is made anew."""
        rows = [h.packet.values for h in list(self.recent)[-LEARNED_FROM:]]
        found = learn([*rows, packet.values, self.low, self.high], packet.ours)
        if self.kept:
            columns = {**dict.fromkeys(found.columns, ""), **self.recipe.columns}
            found = replace(self.recipe, columns=columns)
        if found != self.recipe or self._reader is None:
            self.read_by(found, self.kept)


def _unknown() -> Floats:
    """(channels,) of which nothing is known."""
    return np.full(len(CHANNELS), np.nan, np.float32)
