"""One performer of one sender: how its packets arrive, how they are read, and what is shown of them."""

import time
from collections import deque
from collections.abc import Mapping
from dataclasses import dataclass, field, replace
from typing import Any

import numpy as np

from dynaface.core.curves.channels import Floats
from dynaface.core.feed.arrivals import Arrivals, Kind
from dynaface.core.feed.learned_body import NO_BODY, LearnedBody, learn_body
from dynaface.core.feed.packet import MOST_SIGNALS, Packet
from dynaface.core.feed.profile import FeedProfile, Shaper
from dynaface.core.shapes.standard import CHANNELS
from dynaface.formats.feed_reading import SignalReader, learn
from dynaface.formats.table.recipe import Recipe
from dynaface.live.body import SenderBody

PRE_ROLL = 5.0  # seconds that are kept of what came before a recording begins
MOST_KEPT = 1500  # packets of it
MOMENT = 0.5  # seconds whose middle is taken for a neutral or an extreme
LEARNED_FROM = 60  # packets by which values are understood
LEARN_FOR = 600  # packets within which what arrives is looked at often, to understand it
FIRST = 1 / 60  # seconds that the first packet is thought to be after another
BODY_LOOKS = (12, 60, 240, LEARN_FOR)  # packets after which a body is looked for among their values
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
    """number: by which the page calls it; host: where it is; how: "OSC" or "WebSocket"; called: the performer as the sender says; arrivals: of
    packets that bring a face; shown: (channels,) as its face is shown now; shaped: whether the performer's profile does more than smooth.
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
    body: SenderBody = field(default_factory=SenderBody)
    packets: int = 0
    shown: Floats = field(default_factory=lambda: _unknown())
    shaped: bool = False
    _reader: SignalReader | None = None
    _shaper: Shaper = field(default_factory=lambda: Shaper(FeedProfile()))
    _learned: LearnedBody = NO_BODY
    _raw: list[Mapping[str, float]] = field(default_factory=list)
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

    def age(self, now: float) -> float | None:
        """Seconds since the last packet that counted, None before the first."""
        ages = [a for a in (self.arrivals.age(now), self.body.arrivals.age(now)) if a is not None]
        return min(ages, default=None)

    def heard(self, packet: Packet, now: float) -> tuple[Heard, bool] | None:
        """Takes a packet in: what it is, and whether it is newer than what is shown; None where it only says what a body hangs on."""
        if packet.skeleton:
            self.body.hangs_on(packet.skeleton)
        if packet.values and not packet.ours:
            packet = self._without_body(packet)
        if packet.joints and not packet.values:
            kind = self.body.heard(packet, now)
            seconds = self.body.arrivals.seconds(packet, now)
            found = Heard(packet, seconds, time.time(), self._row, self.shown, self.shown)
        elif packet.values or not packet.skeleton:
            found, kind = self._heard_face(packet, now)
        else:
            return None
        self.packets += 1
        if kind != "doubled":
            self.recent.append(found)
        while self.recent and found.wall - self.recent[0].wall > PRE_ROLL:
            self.recent.popleft()
        return found, kind == "new"

    def _heard_face(self, packet: Packet, now: float) -> tuple[Heard, Kind]:
        before = self.arrivals.last
        kind = self.arrivals.heard(packet, now)
        seconds = self.arrivals.seconds(packet, now)
        if kind == "new":
            self.body.take(packet)
            self._note(packet)
        row = self._row.copy()
        if self._reader is not None:
            self._reader.read_into(row, packet.values)
        if kind == "new":  # what comes late is recorded as what it is, and nothing goes on from it
            self._row = row
        made = self._shaper.made(row)
        shown = self._shaper.smoothed(made, now - before if before is not None else FIRST) if kind == "new" else made
        if kind == "new":
            self.shown = shown
        return Heard(packet, seconds, time.time(), row, made, shown), kind

    def kept_before(self) -> list[Heard]:
        """What came in the seconds before now, as the profile makes it now."""
        return [replace(h, made=self._shaper.made(h.row)) for h in self.recent]

    def moment(self) -> Floats:
        """(rows, channels) of the last moment, before the profile is applied."""
        last = self.recent[-1].wall if self.recent else 0.0
        rows = [h.row for h in self.recent if h.packet.values and last - h.wall <= MOMENT]
        return np.array(rows, np.float32).reshape(len(rows), len(CHANNELS))

    def describe(self, now: float) -> dict[str, Any]:
        """For the page: how it arrives, and each signal with what it is read as."""
        age, body = self.age(now), self.body
        return {
            "sender": self.number,
            "host": self.host,
            "how": self.how,
            "called": self.called,
            "performer": self.performer,
            "rate": round(max(self.arrivals.rate(now), body.arrivals.rate(now)), 1),
            "age": None if age is None else round(age, 2),
            "lost": self.arrivals.lost(now) + body.arrivals.lost(now),
            "begun": self.arrivals.begun + body.arrivals.begun,
            "packets": self.packets,
            "joints": list(body.joints),
            "hangs": body.hangs,
            "kept": self.kept,
            "percent": self.recipe.percent,
            "radians": self.recipe.radians,
            "flipped": list(self.recipe.flipped),
            "signals": [
                [n, self.recipe.columns.get(n, ""), round(v, 4), round(self.low[n], 4), round(self.high[n], 4)]
                for n, v in self.values.items()
            ],
            "shown": [round(float(v), 3) if np.isfinite(v) else None for v in self.shown] if self.packets else [],
        }

    def _without_body(self, packet: Packet) -> Packet:
        """A packet of another program, with the rotations of joints that are among its values taken for its body."""
        if self.packets < LEARN_FOR:
            self._raw.append(packet.values)
            if len(self._raw) in BODY_LOOKS:
                learned = learn_body(self._raw)
                for name in learned.taken - self._learned.taken:
                    for seen in (self.values, self.low, self.high):
                        seen.pop(name, None)
                self._learned = learned
        else:
            self._raw.clear()
        return self._learned.read(packet) if self._learned.turns else packet

    def _note(self, packet: Packet) -> None:
        known = len(self.values)
        for name, value in packet.values.items():
            if name not in self.values and len(self.values) >= MOST_SIGNALS:
                continue  # names that change from packet to packet, as with a count in them
            self.values[name] = value
            self.low[name] = min(self.low.get(name, value), value)
            self.high[name] = max(self.high.get(name, value), value)
        every = EVERY if self.packets <= LEARN_FOR else SELDOM
        learning = not (self.kept or packet.ours) and self.packets % every == 1
        if len(self.values) != known or learning:
            self._understand(packet)

    def _understand(self, packet: Packet) -> None:
        """Names that are new get a place; until somebody has said how it is read, the guess is made anew."""
        rows = [h.packet.values for h in self.recent if h.packet.values][-LEARNED_FROM:]
        found = learn([*rows, packet.values, self.low, self.high], packet.ours)
        if self.kept:
            columns = {**dict.fromkeys(found.columns, ""), **self.recipe.columns}
            found = replace(self.recipe, columns=columns)
        if found != self.recipe or self._reader is None:
            self.read_by(found, self.kept)


def _unknown() -> Floats:
    """(channels,) of which nothing is known."""
    return np.full(len(CHANNELS), np.nan, np.float32)
