"""What pages see of senders: each one's character, moved by its face and body."""

from collections.abc import Callable
from dataclasses import dataclass, field
from typing import Any

from dynaface.core.errors import InputError
from dynaface.core.shapes.standard import CHANNELS
from dynaface.live.sender import Heard, Sender
from dynaface.live.wire import as_text, packed_frame
from dynaface.services.feed.live_character import LiveCharacter

MOST_WATCHED = 3  # by one page
SILENT = 0.1  # seconds after which another sender of a performer moves the character


@dataclass(eq=False)
class Listener:
    """A page: send puts a text or bytes on its way and never waits; watched: senders whose characters it shows; told: what it knows of each."""

    send: Callable[[str | bytes], None]
    watched: frozenset[int] = frozenset()
    told: dict[int, dict[str, Any]] = field(default_factory=dict)


@dataclass(kw_only=True)
class Watched:
    """senders: by number; listeners: who looks; characters: by performer, None where there is none to show."""

    senders: dict[int, Sender] = field(default_factory=dict)
    listeners: set[Listener] = field(default_factory=set)
    characters: dict[str, LiveCharacter | None] = field(default_factory=dict)

    def sender(self, number: Any) -> Sender:
        """One of its senders; raises InputError for any other."""
        found = self.senders.get(number) if isinstance(number, int) else None
        if found is None:
            raise InputError(f"there is no sender {number!r}", hint="Choose one that is heard")
        return found

    def watch(self, listener: Listener, numbers: Any) -> None:
        """What a page shows from now on; raises InputError for senders that are not there, or too many."""
        if not isinstance(numbers, list) or len(numbers) > MOST_WATCHED:
            raise InputError(f"{numbers!r:.60} can't be watched", hint=f"At most {MOST_WATCHED} senders at once")
        listener.watched, listener.told = frozenset(self.sender(n).number for n in numbers), {}

    def show(self, sender: Sender, heard: Heard, now: float) -> None:
        """To pages that watch the sender, or another of the same performer that is silent."""
        for number in frozenset[int]().union(*(one.watched for one in self.listeners)):
            of = self.senders.get(number)
            if of is sender:
                self._show_on(sender, heard)
            elif of is not None and sender in self._beside(of) and (of.age(now) or 0.0) > SILENT:
                self._show_on(of, heard)

    def _show_on(self, sender: Sender, heard: Heard) -> None:
        """The character of a sender's performer: with the sender's own face and body, else those of another of the same performer."""
        character = self.characters.get(sender.performer)
        if character is None:
            return
        beside = [sender, *self._beside(sender)]
        face = next((s.shown for s in beside if s.values), sender.shown)
        body = next((b for s in beside if (b := s.body.on(character)) is not None), None)
        frame = character.frame(CHANNELS, face, body)
        shifts = list(frame.shifts.values())
        packed = packed_frame(sender.number, sender.packets, heard.wall, face, frame.weights, frame.motion, shifts)
        described = character.described(frame)
        for one in self.listeners:
            if sender.number not in one.watched:
                continue
            if one.told.get(sender.number) != described:
                one.told[sender.number] = described
                one.send(as_text({"type": "character", "sender": sender.number, **described}))
            one.send(packed)

    def _beside(self, sender: Sender) -> list[Sender]:
        """Other senders of the same performer, who is named."""
        if not sender.performer:
            return []
        return [s for s in self.senders.values() if s is not sender and s.performer == sender.performer]
