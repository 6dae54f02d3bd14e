"""What can be asked of a feed: by the page, and by other machines over HTTP or OSC. Each answers with what happened."""

import asyncio
import time
from collections.abc import Awaitable, Callable, Mapping
from typing import Any

from dynaface.core.errors import InputError
from dynaface.core.feed.profile import neutral_of, zero_of
from dynaface.core.plain import is_number
from dynaface.core.shapes.standard import CHANNELS, SHAPES
from dynaface.live.outs import MOST_OUTS, parse_out
from dynaface.live.recorder import Recorder
from dynaface.live.room import SLATE, Count, Room
from dynaface.live.sender import Sender
from dynaface.services.edit_document import Wanted
from dynaface.services.feed.names_of import names_of_character
from dynaface.services.feed.profiles import change_feed_profile, keep_feed_performer, keep_feed_recipe
from dynaface.services.work import Work

Given = Mapping[str, Any]
LONGEST_COUNT = 30.0
MOST_CHANGES = 40


class Desk:
    """The commands at work on a room; slates: the last of each production; begin, end: start a recording, end and keep it."""

    def __init__(self, room: Room, work: Work, slates: dict[str, str], begin: Callable[[Room, Work], Recorder],
                 end: Callable[[Room], None]) -> None:  # fmt: skip
        self.room, self.work, self.slates = room, work, slates
        self._begin, self._end = begin, end

    async def start(self, given: Given) -> str:
        """Records, after a count-in of some seconds."""
        room, loop = self.room, asyncio.get_running_loop()
        if room.recorder is not None or room.count is not None:
            raise InputError("a recording is under way", hint="Stop it first")
        if given.get("slate"):
            await self.slate(given)
        seconds = _seconds(given.get("count", 0))
        if seconds:
            room.count = Count(loop.time() + seconds, "record")
            return f"{self._named()} begins in {seconds:g} s"
        self._begin(room, self.work)
        return f"{self._named()} is recorded"

    async def stop(self, given: Given) -> str:
        """Ends the recording, or the count-in."""
        if self.room.count is not None and self.room.count.what == "record":
            self.room.count = None
            return "the count-in was stopped; nothing is recorded"
        if self.room.recorder is None:
            raise InputError("nothing is being recorded", hint="Start a recording first")
        name = self._named()
        self._end(self.room)
        return f"{name} is kept"

    async def slate(self, given: Given) -> str:
        """Names the next recording; its number is the next one that is free."""
        named = given.get("slate")
        if not isinstance(named, str) or not SLATE.match(named.strip()):
            raise InputError(f"{named!r:.80} is no slate", hint="Give 1 to 60 letters without slashes")
        if self.room.recorder is not None:
            raise InputError("a recording is under way; it keeps its slate", hint="Stop it first")
        self.room.slate = self.slates[self.room.production] = named.strip()
        await self.room.count_on()
        return f"next: {self._named()}"

    async def neutral(self, given: Given) -> str:
        """Takes the performer's neutral face, after a countdown of some seconds."""
        sender = self._whose(given)
        seconds = _seconds(given.get("count", 0))
        if seconds:
            if self.room.count is not None:
                raise InputError("something is being counted down", hint="Wait for it")
            self.room.count = Count(asyncio.get_running_loop().time() + seconds, "neutral", sender.number)
            return f"neutral of {sender.name} in {seconds:g} s"
        return await self.take_neutral(sender)

    async def take_neutral(self, sender: Sender) -> str:
        """The last half second is this performer's neutral face."""
        rows = sender.moment()
        found = neutral_of(rows)
        if not found:
            raise InputError(f"nothing of {sender.name} is read as a shape", hint="Say what its values are first")
        wanted: list[dict[str, Any]] = [{"path": "neutral", "value": found}]
        zero = zero_of(rows)
        if zero is not None:
            wanted.append({"path": "zero", "value": list(zero)})
        await self._change(sender, f"take neutral of {sender.name}", wanted)
        return f"neutral of {sender.name} is taken"

    async def zero(self, given: Given) -> str:
        """Where the head looks now is ahead."""
        sender = self._whose(given)
        found = zero_of(sender.moment())
        if found is None:
            raise InputError(f"the head of {sender.name} is not known", hint="Say which values are its angles")
        await self._change(sender, f"zero the head of {sender.name}", [{"path": "zero", "value": list(found)}])
        return f"{sender.name} looks ahead"

    async def extreme(self, given: Given) -> str:
        """The most that a shape reached in the last half second is this performer's full."""
        sender, shape = self._whose(given), given.get("shape")
        if shape not in SHAPES:
            raise InputError(f"{shape!r:.60} is no shape", where="shape")
        rows = sender.moment()
        values = rows[:, SHAPES.index(shape)]
        peak = float(values.max()) if len(values) else float("nan")
        document = self.room.profiles.get(sender.performer)
        neutral = document.body.neutral.get(shape, 0.0) if document else 0.0
        if not peak - neutral >= 0.1:
            raise InputError(f"{shape} of {sender.name} is hardly shown now", hint="Show it while you press")
        await self._change(sender, f"{shape} of {sender.name} at its most", [{"path": f"extremes/{shape}", "value": round(peak, 5)}])  # fmt: skip
        return f"{shape} of {sender.name} is full at {peak:.2f}"

    async def profile(self, given: Given) -> str:
        """Changes the performer's profile: values at paths, as documents are changed."""
        sender, wanted = self._whose(given), given.get("changes")
        if not isinstance(wanted, list) or not wanted or len(wanted) > MOST_CHANGES or not all(
            isinstance(c, dict) and isinstance(c.get("path"), str) for c in wanted
        ):  # fmt: skip
            raise InputError("changes must be a list of values at paths", where="changes")
        await self._change(sender, str(given.get("label") or f"change {sender.name} live")[:120], wanted)
        return f"{sender.name} is changed"

    async def recipe(self, given: Given) -> str:
        """Says how a sender is read, and keeps it for the next time."""
        sender = self._whose(given)
        said = {k: given[k] for k in ("columns", "percent", "radians", "flipped") if k in given}
        if not said:
            raise InputError("say what is read otherwise", where="recipe")
        found = await asyncio.to_thread(keep_feed_recipe, self.work, self.room.production, sender.key, said, sender.recipe)  # fmt: skip
        sender.read_by(found, kept=True)
        return f"{sender.name} is read as you said"

    async def performer(self, given: Given) -> str:
        """Says whom a sender captures."""
        sender, name = self._whose(given), given.get("name")
        if not isinstance(name, str):
            raise InputError(f"{name!r:.80} is no performer", where="name")
        sender.performer = await asyncio.to_thread(
            keep_feed_performer, self.work, self.room.production, sender.key, name
        )
        self.room.apply(sender.performer)
        return f"this is {sender.name}"

    async def send(self, given: Given) -> str:
        """Sends what is shown to another machine; character: by whose names channels go out."""
        if len(self.room.outs) >= MOST_OUTS:
            raise InputError(f"{MOST_OUTS} feeds go out already", hint="End one")
        wanted = dict(given)
        if wanted.get("character"):
            whose, production = str(wanted["character"]), self.room.production
            wanted["names"] = await asyncio.to_thread(names_of_character, self.work, production, whose)
        out = parse_out(wanted)
        await asyncio.to_thread(out.open)
        self.room.outs.append(out)
        return f"sending to {out.host}:{out.port}"

    async def end_sending(self, given: Given) -> str:
        """Ends a feed out, by its place in the list."""
        place = given.get("place")
        if not isinstance(place, int) or isinstance(place, bool) or not 0 <= place < len(self.room.outs):
            raise InputError(f"there is no feed out number {place!r:.20}", where="place")
        out = self.room.outs.pop(place)
        out.close()
        return f"nothing is sent to {out.host}:{out.port} any more"

    async def play(self, given: Given) -> str:
        """A frame of what a page plays, for feeds out that send the timeline."""
        values, seconds = given.get("values"), given.get("seconds")
        performer, timecode = given.get("performer", ""), given.get("timecode", "")
        if not isinstance(values, dict) or not all(n in CHANNELS and is_number(v) for n, v in values.items()):
            raise InputError("values must be a table of channels and numbers", where="values")
        if not is_number(seconds) or seconds is None or seconds < 0:
            raise InputError(f"{seconds!r:.20} is no moment", where="seconds")
        if not (
            isinstance(performer, str) and isinstance(timecode, str) and len(performer) <= 80 and len(timecode) <= 20
        ):
            raise InputError("performer and timecode must be short texts", where="performer")
        self.room.played(performer, seconds, timecode, values, time.monotonic())
        return ""

    def _whose(self, given: Given) -> Sender:
        if "sender" in given:
            return self.room.sender(given["sender"])
        return self.room.of_performer(str(given.get("performer") or ""))

    async def _change(self, sender: Sender, label: str, wanted: Wanted) -> None:
        if not sender.performer:
            raise InputError("say first whom this sender captures", where="performer", hint="What is taken is kept with the performer")  # fmt: skip
        await asyncio.to_thread(change_feed_profile, self.work, self.room.production, sender.performer, label[:120], wanted)  # fmt: skip
        await self.room.refresh()

    def _named(self) -> str:
        return f"{self.room.slate}_{self.room.number:02d}"


Command = Callable[[Desk, Given], Awaitable[str]]
REMOTE: dict[str, Command] = {c.__name__: c for c in (Desk.start, Desk.stop, Desk.slate, Desk.neutral)}
"""What other machines may ask for, by name."""
COMMANDS: dict[str, Command] = {
    **REMOTE,
    **{
        c.__name__: c
        for c in (
            Desk.zero,
            Desk.extreme,
            Desk.profile,
            Desk.recipe,
            Desk.performer,
            Desk.send,
            Desk.end_sending,
            Desk.play,
        )
    },
}
"""What the page may ask for."""


def _seconds(given: Any) -> float:
    if not is_number(given) or not 0 <= given <= LONGEST_COUNT:
        raise InputError(f"{given!r:.20} seconds; it must be 0 to {LONGEST_COUNT:g}", where="count")
    return float(given)
