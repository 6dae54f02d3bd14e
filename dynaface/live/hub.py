"""All senders that are heard and all rooms: packets go in here, and five times a second everybody is told how things stand."""

import asyncio
import json
import logging
import time
from collections import deque
from collections.abc import Callable
from pathlib import Path
from typing import Any

from dynaface.core.errors import DynafaceError, InputError
from dynaface.core.feed.packet import Packet
from dynaface.live.commands import Desk
from dynaface.live.recorder import ABOUT, Recorder, forget, left_behind
from dynaface.live.room import Room
from dynaface.live.sender import GONE, Sender
from dynaface.live.watched import Listener
from dynaface.live.wire import as_text
from dynaface.services.feed.keep_recording import keep_recording
from dynaface.services.work import Work

log = logging.getLogger("dynaface.live")
EACH = 0.2  # seconds between states
REFRESH = 1.0  # seconds between looks at what is stored
FLUSH = 0.5  # seconds between writes to the disk
MOST_SENDERS = 64  # of the whole machine
USUAL_SLATE = "live"
SENDS = 5.0  # seconds since its last packet within which a sender counts as sending
HELD = 600.0  # seconds for which a room stays open after a command from another machine
MOST_HOURS = 2.0  # of one recording


class Hub:
    """work: for nobody in particular; folder: where recordings are written; about: what is told of the ports."""

    def __init__(self, work: Work, folder: Path) -> None:
        self.work, self.folder = work, folder
        self.senders: dict[tuple[str, str, str], Sender] = {}
        self.rooms: dict[str, Room] = {}
        self.slates: dict[str, str] = {}
        self.about: dict[str, Any] = {}
        self.refused: deque[str] = deque(maxlen=3)
        self.refusals = 0
        self._tasks: set[asyncio.Task[Any]] = set()
        self._unread: set[str] = set()
        self._counted = 0
        self._flushed = self._refreshed = 0.0

    # --- packets --------------------------------------------------------------------------------
    def heard(self, host: str, how: str, packet: Packet) -> None:
        """A packet that came from a machine."""
        now = time.monotonic()
        key = (host, how, packet.performer)
        sender = self.senders.get(key)
        if sender is None:
            if len(self.senders) >= MOST_SENDERS:
                return self.refuse(host, f"{MOST_SENDERS} senders are heard already")
            self._counted += 1
            sender = self.senders[key] = Sender(self._counted, host, how, packet.performer)
        found = sender.heard(packet, now)
        room = self.rooms.get(sender.production)
        if room is not None and found is not None:
            room.heard(sender, *found, now)

    def refuse(self, host: str, why: str) -> None:
        """Something came that is no packet; the last few are told."""
        self.refusals += 1
        self.refused.append(f"{host}: {why}")

    # --- rooms ----------------------------------------------------------------------------------
    def room(self, production: str, work: Work) -> Room:
        """The room of a production, opened where it is not yet."""
        room = self.rooms.get(production)
        if room is None:
            room = self.rooms[production] = Room(production, work, slate=self.slates.get(production, USUAL_SLATE))
            self._soon(room.refresh())
            self._soon(room.count_on())
        return room

    async def hold(self, room: Room) -> None:
        """Keeps a room open for a while though nobody looks, with all senders that are nobody's: another machine commands it."""
        room.held_until = time.monotonic() + HELD
        await self._claim(room)

    async def look_around(self, room: Room) -> None:
        """Takes in who sends already, with what is stored of them: somebody who begins to look waits for no tick."""
        await self._claim(room)
        await self._look_up(room)

    def desk(self, room: Room, work: Work) -> Desk:
        """The commands for somebody in a room."""
        return Desk(room, work, self.slates, self.begin, self.end)

    def begin(self, room: Room, work: Work) -> Recorder:
        """Starts a recording; raises InputError."""
        if not room.senders:
            raise InputError("nothing is heard that could be recorded", hint="Start the sender first")
        recorder = Recorder(self.folder, room.production, work.person, room.slate, room.counted)
        room.begin_recording(recorder, time.monotonic())
        return recorder

    def end(self, room: Room) -> None:
        """Ends a recording and keeps it as takes, in the background."""
        recorder, room.recorder = room.recorder, None
        if recorder is None:
            return
        recorder.close()
        if recorder.trouble:
            room.say(recorder.trouble)
        room.keeping += 1
        self._soon(self._keep(room, recorder.folder))

    async def _keep(self, room: Room, folder: Path) -> None:
        try:
            made, wrong = await asyncio.to_thread(self._kept, folder)
            await room.count_on()
            room.made.extend(made)
            for words in [f"{len(made)} take{'s' if len(made) != 1 else ''} kept", *wrong]:
                room.say(words)
        except DynafaceError as error:
            room.say(f"the recording could not be kept: {error}")
        finally:
            room.keeping -= 1

    def _kept(self, folder: Path) -> tuple[list[str], list[str]]:
        about = json.loads((folder / ABOUT).read_text())
        try:
            takes, wrong = keep_recording(self.work.by(about["person"]), folder, about)
        except InputError:
            forget(folder)  # nothing in it can be read, now or later
            raise
        forget(folder)
        return [take.id for take in takes], wrong

    def keep_left_behind(self) -> None:
        """Recordings whose process was killed become takes; run once, before anything is heard."""
        for folder in left_behind(self.folder):
            try:
                made, wrong = self._kept(folder)
                log.warning("a recording that was cut off is kept as %d take(s)%s", len(made), "; ".join(["", *wrong]))
            except (DynafaceError, OSError, ValueError, KeyError) as error:
                log.warning("a recording that was cut off can't be kept: %s", error)

    # --- time -----------------------------------------------------------------------------------
    async def run(self) -> None:
        """Until it is cancelled; then recordings end and are kept."""
        try:
            while True:
                await asyncio.sleep(EACH)
                try:
                    await self._tick()
                except Exception:  # one room's trouble must not end what the others record
                    log.exception("a look at the feeds failed")
        finally:
            for room in self.rooms.values():
                self.end(room)
            if self._tasks:
                await asyncio.wait(self._tasks, timeout=20)

    async def _tick(self) -> None:
        now = time.monotonic()
        self._forget_silent(now)
        for room in list(self.rooms.values()):
            if not room.looked_at(now):
                self._close(room)
                continue
            await self._claim(room)
            await self._count_down(room)
            self._watch_recording(room, now)
        if now - self._flushed >= FLUSH:
            self._flushed = now
            for room in self.rooms.values():
                if room.recorder is not None:
                    await asyncio.to_thread(room.recorder.flush)
        due = now - self._refreshed >= REFRESH
        if due:
            self._refreshed = now
        for room in list(self.rooms.values()):
            if due or (room.awaited and room.production not in self._unread):
                await self._look_up(room)
            if due:
                await room.hear_timecode(time.time())
        for room in self.rooms.values():
            if room.listeners:
                said = as_text(self.state(room))
                for one in list(room.listeners):
                    one.send(said)

    async def _look_up(self, room: Room) -> None:
        """What is stored; while it can't be read, what is known goes on, and the log says so once."""
        try:
            await room.refresh()
            await room.load_characters()
            self._unread.discard(room.production)
        except Exception as error:  # the database is away, or whoever opened the feed is no member any more
            if room.production not in self._unread:
                log.warning("what is stored for a feed can't be read: %s", str(error).splitlines()[0])
            self._unread.add(room.production)

    async def _claim(self, room: Room) -> None:
        """Senders that are nobody's and send now go to the production whose feed is looked at."""
        now = time.monotonic()
        for sender in list(self.senders.values()):
            if not sender.production and (sender.age(now) or 0.0) < SENDS:
                await room.take_in(sender)

    async def _count_down(self, room: Room) -> None:
        count = room.count
        if count is None or asyncio.get_running_loop().time() < count.until:
            return
        room.count = None
        try:
            if count.what == "record":
                self.begin(room, room.work)
            else:
                room.say(await self.desk(room, room.work).take_neutral(room.sender(count.of)))
        except DynafaceError as error:
            room.say(str(error))

    def _watch_recording(self, room: Room, now: float) -> None:
        recorder = room.recorder
        if recorder is not None and (recorder.trouble or now - room.recording_since > MOST_HOURS * 3600):
            if not recorder.trouble:
                room.say(f"the recording ended after {MOST_HOURS:g} hours")
            self.end(room)

    def _forget_silent(self, now: float) -> None:
        for key, sender in list(self.senders.items()):
            room = self.rooms.get(sender.production)
            if (sender.age(now) or 0.0) > GONE and (room is None or room.recorder is None):
                del self.senders[key]
                if room is not None:
                    room.senders.pop(sender.number, None)

    def _close(self, room: Room) -> None:
        """Nobody looks any more: its senders may go elsewhere."""
        for sender in room.senders.values():
            sender.production = ""
        del self.rooms[room.production]

    def state(self, room: Room) -> dict[str, Any]:
        """How things stand, for the page."""
        now = time.monotonic()
        left = None
        if room.count is not None:
            left = max(0.0, room.count.until - asyncio.get_running_loop().time())
        recorder = room.recorder
        return {
            "type": "state",
            "elsewhere": sum(1 for s in self.senders.values() if s.production not in ("", room.production)),
            "refusals": self.refusals,
            "refused": list(self.refused),
            "senders": [s.describe(now) for s in room.senders.values()],
            "slate": room.slate,
            "number": room.number,
            "count": None if room.count is None or left is None else {"what": room.count.what, "left": round(left, 1)},
            "recording": None if recorder is None else {
                "seconds": round(now - room.recording_since, 1),
                "packets": sum(t.packets for t in recorder.tracks.values()),
            },
            "keeping": room.keeping,
            "timecode": None if room.counted is None else {
                "label": str(room.counted.at(time.time())),
                "rate": f"{float(room.counted.code.rate):.5g}",
            },
            "outs": [o.describe() for o in room.outs],
            "said": room.said,
            "told": room.told,
            "made": room.made[-8:],
        }  # fmt: skip

    def listen(self, room: Room, send: Callable[[str | bytes], None]) -> Listener:
        """A page begins to listen."""
        listener = Listener(send)
        room.listeners.add(listener)
        return listener

    def _soon(self, work: Any) -> None:
        task = asyncio.get_running_loop().create_task(work)
        self._tasks.add(task)
        task.add_done_callback(self._done)

    def _done(self, task: asyncio.Task[Any]) -> None:
        self._tasks.discard(task)
        if not task.cancelled() and task.exception() is not None:
            log.error("something of a feed failed", exc_info=task.exception())
