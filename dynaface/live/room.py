"""A production whose feed somebody looks at: its senders, its performers' profiles, who listens, what is recorded and sent on."""

import asyncio
import re
import time
from dataclasses import dataclass, field

import numpy as np

from dynaface.core.clock.timecode import RunningCount
from dynaface.core.documents.model.feed_profile import FeedProfileBody
from dynaface.core.errors import DynafaceError, InputError
from dynaface.core.feed.packet import Packet
from dynaface.core.records.records import Document
from dynaface.core.shapes.standard import CHANNELS, PLACE_OF
from dynaface.formats.feed_line import write_line
from dynaface.live.microphone import Microphone, piece_of
from dynaface.live.outs import TIMELINE, Out, shown_packet
from dynaface.live.recorder import Recorder
from dynaface.live.sender import Heard, Sender
from dynaface.live.watched import Watched
from dynaface.live.wire import Outbox
from dynaface.services.feed.keep_recording import next_number
from dynaface.services.feed.live_character import live_character
from dynaface.services.feed.profiles import kept_feed_performer, kept_feed_recipe, list_feed_profiles
from dynaface.services.work import Work

SLATE = re.compile(r"^[^\x00-\x1f/\\]{1,60}$")
MOST_SENDERS = 16
FREE = 10.0  # seconds for which a timecode goes on that is heard no more


@dataclass
class Count:
    """A countdown: until when, on the loop's clock; what: what happens then."""

    until: float
    what: str
    of: int | None = None


@dataclass
class Room(Watched):
    """work: of who opened it first; counted: the timecode that its microphone carries; slate: of the next recording; said: the last
    things that happened, for everybody who looks.
    """

    production: str
    work: Work
    slate: str
    profiles: dict[str, Document[FeedProfileBody]] = field(default_factory=dict)
    number: int = 1
    recorder: Recorder | None = None
    microphone: Microphone | None = None
    sound_came: float = 0.0
    counted: RunningCount | None = None
    count_came: float = 0.0
    recording_since: float = 0.0
    keeping: int = 0
    count: Count | None = None
    outs: list[Out] = field(default_factory=list)
    said: list[str] = field(default_factory=list)
    told: int = 0
    made: list[str] = field(default_factory=list)
    unknown: set[str] = field(default_factory=set)
    timeline: Sender = field(default_factory=lambda: Sender(0, "", TIMELINE, ""))
    readers: set[Outbox] = field(default_factory=set)
    held_until: float = 0.0

    def looked_at(self, now: float) -> bool:
        """Whether anybody has a use for it."""
        busy = self.recorder is not None or self.keeping or self.count is not None
        return bool(self.listeners or self.readers or self.outs or busy or now < self.held_until)

    def say(self, words: str) -> None:
        """Something that happened, for everybody who looks."""
        self.said = [*self.said[-7:], words]
        self.told += 1

    async def count_on(self) -> None:
        """The number of the next recording, by the takes that there are."""
        self.number = await asyncio.to_thread(next_number, self.work, self.production, self.slate)

    async def refresh(self) -> None:
        """Profiles as they are stored; characters of those that changed are asked for anew."""
        found = await asyncio.to_thread(list_feed_profiles, self.work, self.production)
        for document in found:
            performer = document.body.performer
            before = self.profiles.get(performer)
            if before is None or before.version != document.version:
                self.profiles[performer] = document
                self.apply(performer)

    def apply(self, performer: str) -> None:
        """A performer's profile, to what their senders show from now on."""
        self.characters.pop(performer, None)
        self.unknown.discard(performer)
        for sender in self.senders.values():
            if sender.performer == performer and performer in self.profiles:
                sender.use(self.profiles[performer].body.profile)

    async def take_in(self, sender: Sender) -> None:
        """A sender becomes one of this production: it is read as it was last time, by whom it names."""
        if len(self.senders) >= MOST_SENDERS:
            return
        sender.production, sender.performer = self.production, sender.called
        self.senders[sender.number] = sender
        kept = None
        try:
            performer = await asyncio.to_thread(kept_feed_performer, self.work, self.production, sender.key)
            sender.performer = performer or sender.called
            kept = await asyncio.to_thread(kept_feed_recipe, self.work, self.production, sender.key)
        except DynafaceError as error:
            self.say(str(error))
        if kept is not None:
            sender.read_by(kept, kept=True)
        self.apply(sender.performer)

    @property
    def awaited(self) -> set[str]:
        """Performers who are heard and whose characters are not known yet."""
        return {s.performer for s in self.senders.values()} - set(self.characters) - self.unknown

    async def load_characters(self) -> None:
        """Characters of performers who are heard and have none yet."""
        for performer in self.awaited:
            profile = self.profiles.get(performer)
            wanted = profile.body.character if profile else None
            try:
                found = await asyncio.to_thread(live_character, self.work, self.production, performer, wanted)
            except DynafaceError as error:
                self.unknown.add(performer)
                self.say(str(error))
                continue
            self.characters[performer] = found

    def of_performer(self, performer: str) -> Sender:
        """The sender of a performer, or the only one for ""; raises InputError."""
        found = [s for s in self.senders.values() if performer in (s.performer, s.called)] or (
            list(self.senders.values()) if not performer else []
        )
        if len(found) != 1:
            heard = ", ".join(s.name for s in self.senders.values()) or "nobody"
            raise InputError(f"say whose: {heard} is heard", where="performer")
        return found[0]

    def heard(self, sender: Sender, heard: Heard, newer: bool, now: float) -> None:
        """A packet of one of its senders: recorded, shown, sent on."""
        if self.recorder is not None:
            self.recorder.write(sender, heard)
        if newer:
            self._send_on(sender, heard, now)
            self.show(sender, heard, now)

    def played(self, performer: str, seconds: float, timecode: str, values: dict[str, float], now: float) -> None:
        """A frame that a page plays: sent on as it is."""
        row = np.full(len(CHANNELS), np.nan, np.float32)
        for channel, value in values.items():
            row[PLACE_OF[channel]] = value
        self.timeline.performer = performer
        self.timeline.packets += 1
        packet = Packet(performer, None, seconds, timecode, values, ours=True)
        self._send_on(self.timeline, Heard(packet, seconds, time.time(), row, row, row), now)

    def _send_on(self, sender: Sender, heard: Heard, now: float) -> None:
        for out in self.outs:
            out.offer(sender, heard, now)
        if self.readers:
            line = write_line(shown_packet(sender, heard))
            for reader in self.readers:
                reader.put(line)

    def begin_recording(self, recorder: Recorder, now: float) -> None:
        """From now on packets are recorded; what came in the seconds before is written first."""
        self.recorder, self.recording_since = recorder, now
        for sender in self.senders.values():
            for heard in sender.kept_before():
                recorder.write(sender, heard)
        if self.microphone is not None:
            for first, data in self.microphone.recent:
                recorder.write_sound(self.microphone, first, data)

    def hear_microphone(self, message: bytes, wall: float) -> None:
        """A piece of a page's microphone; raises InputError."""
        piece = piece_of(message)
        if self.microphone is None or not self.microphone.goes_on(piece):
            self.microphone = Microphone(piece.rate, piece.latency, piece.channels)
        first = self.microphone.samples
        self.microphone.hear(piece.data, wall)
        self.sound_came = wall
        if self.recorder is not None:
            self.recorder.write_sound(self.microphone, first, piece.data)

    async def hear_timecode(self, wall: float) -> None:
        """The count that the microphone carries; one that is heard no more goes on for a while."""
        if self.microphone is not None and wall - self.sound_came < FREE:
            found = await asyncio.to_thread(self.microphone.count)
            if found is not None:
                self.counted, self.count_came = found, wall
        if wall - self.count_came > FREE:
            self.counted = None
