"""A recording: every packet as it came, a line each, on the disk within a second; whatever ends it, what was written is readable."""

import json
import os
import shutil
import threading
import time
from collections.abc import Iterator, Sequence
from contextlib import contextmanager
from dataclasses import dataclass, field
from fractions import Fraction
from io import BufferedWriter
from pathlib import Path
from typing import Any
from uuid import uuid4

import numpy as np
import orjson

from dynaface.core.clock.rates import format_rate
from dynaface.core.clock.timecode import RunningCount, from_seconds, labelled
from dynaface.core.errors import InputError
from dynaface.core.feed.packet import JointRow
from dynaface.core.shapes.standard import CHANNELS
from dynaface.formats.entries.body_lines import head_line
from dynaface.formats.feed_line import body_fields
from dynaface.formats.table.recipe import Recipe
from dynaface.live.microphone import Microphone
from dynaface.live.sender import Heard, Sender
from dynaface.services.feed.keep_recording import BODY, FACE, LIVE, SOUND

ABOUT = "recording.json"
DAY = 86400.0
CLOCK = Fraction(60)  # frames a second of the machine's clock as timecode


@dataclass
class Track:
    """One performer's packets: file: its name in the recording's folder; part: "face", or "body" for those that bring one; recipe: how they are
    read; skeleton: what a body hangs on, as far as it was said; began: seconds of its first packet, and wall the clock's; coded: whether
    packets bring a timecode; rate: at which it counts where they do not; shaped: whether the performer's profile changed anything.
    """

    file: str
    part: str
    performer: str
    sender: str
    recipe: Recipe
    skeleton: tuple[JointRow, ...] = ()
    coded: bool = False
    rate: str = ""
    began: float | None = None
    wall: float = 0.0
    packets: int = 0
    shaped: bool = False
    stream: BufferedWriter | None = field(default=None, repr=False)

    def since(self, heard: Heard) -> float:
        """Seconds from its first packet to one."""
        if self.began is None:
            self.began, self.wall = heard.seconds, heard.wall
        return heard.seconds - self.began

    def put(self, line: bytes) -> None:
        """Writes the line of a packet."""
        assert self.stream is not None
        self.stream.write(line)
        self.packets += 1

    def plain(self) -> dict[str, Any]:
        """As it is stored."""
        return {
            "file": self.file,
            "part": self.part,
            "skeleton": [list(row) for row in self.skeleton],
            "coded": self.coded,
            "rate": self.rate,
            "performer": self.performer,
            "sender": self.sender,
            "recipe": self.recipe.describe(),
            "shaped": self.shaped,
            "wall": self.wall,
        }


class Recorder:
    """Writes packets of senders into a folder of its own."""

    def __init__(
        self, folder: Path, production: str, person: str, slate: str, counted: RunningCount | None = None
    ) -> None:
        """counted: the timecode of packets that bring none, None for the machine's clock. Raises InputError where nothing can be written there."""
        self._counted = counted
        self._ending = threading.Lock()  # a flush in a thread must not meet files that are closed
        self.slate, self.production, self.person = slate, production, person
        self.folder = folder / str(uuid4())
        self.tracks: dict[tuple[int, str], Track] = {}
        self.trouble = self._noted = ""
        self._sound: BufferedWriter | None = None
        self._microphone: Microphone | None = None
        self._first = 0
        try:
            self.folder.mkdir(parents=True)
            self._describe()
        except OSError as error:
            raise InputError(
                f"the recording can't be written: {error.strerror}", hint="Make room on the disk"
            ) from None

    def write(self, sender: Sender, heard: Heard) -> None:
        """A packet of a sender; where it can't be written, `trouble` says so and the recording ends with what there is."""
        if self.trouble:
            return
        with self._troubled():
            if heard.packet.values:
                track = self._track(sender, heard, FACE)
                track.recipe, track.shaped = sender.recipe, track.shaped or sender.shaped
                track.put(line_of(heard, track.since(heard), live=True, counted=self._counted))
            if heard.packet.joints:
                track = self._track(sender, heard, BODY)
                track.skeleton = sender.body.rows
                track.put(body_line_of(heard, track.since(heard), self._counted))

    def _track(self, sender: Sender, heard: Heard, part: str) -> Track:
        track = self.tracks.get((sender.number, part))
        if track is None:
            coded = bool(heard.packet.timecode)
            file = f"{sender.number}.{part}.jsonl"
            track = Track(file, part, sender.performer, sender.key, sender.recipe, coded=coded, wall=heard.wall)
            clock = self._counted.code.rate if self._counted is not None else CLOCK
            track.rate = "" if coded else format_rate(clock)
            track.stream = open(self.folder / track.file, "ab")  # noqa: SIM115
            self.tracks[sender.number, part] = track
            self._describe()
        return track

    def write_sound(self, microphone: Microphone, first: int, data: bytes) -> None:
        """A piece of sound that begins at a sample; what of it is lost ends the sound and not the recording."""
        if self.trouble:
            return
        with self._troubled():
            if self._sound is None:
                self._sound = open(self.folder / SOUND, "ab")  # noqa: SIM115
                self._microphone, self._first = microphone, first
            if microphone is self._microphone:
                self._sound.write(data)

    def flush(self) -> None:
        """Everything that was written is on the disk afterwards. It may run in a thread while packets are written, and while `close` ends it."""
        with self._ending:
            self._flush()

    def close(self) -> None:
        """Ends it, after a flush that is under way."""
        with self._ending:
            self._flush()
            for stream in self._streams():
                with self._troubled():
                    stream.close()
            self._sound = None
            for track in self.tracks.values():
                track.stream = None

    def _flush(self) -> None:
        with self._troubled():
            for stream in self._streams():
                stream.flush()
                os.fdatasync(stream.fileno())
            self._describe()

    def _streams(self) -> list[BufferedWriter]:
        """Files that are open."""
        return [s for s in (self._sound, *(t.stream for t in list(self.tracks.values()))) if s is not None]

    @contextmanager
    def _troubled(self) -> Iterator[None]:
        """What can't be written in here ends the recording, and `trouble` says so."""
        try:
            yield
        except OSError as error:
            self.trouble = f"the recording ended: {error.strerror}"

    def _describe(self) -> None:
        about: dict[str, Any] = {
            "production": self.production,
            "person": self.person,
            "slate": self.slate,
            "tracks": [t.plain() for t in list(self.tracks.values())],
        }
        if self._microphone is not None:
            about["sound"] = {
                "rate": self._microphone.rate,
                "channels": self._microphone.channels,
                "began": self._microphone.when(self._first),
            }
        said = json.dumps(about)
        if said != self._noted:  # how a sender is read may be said in the midst of a recording
            beside = self.folder / f"{ABOUT}.new"
            beside.write_text(said)
            beside.replace(self.folder / ABOUT)
            self._noted = said


def line_of(heard: Heard, seconds: float, live: bool, counted: RunningCount | None = None) -> bytes:
    """The line of a packet: raw values, when they were sent and came, timecode; live: with what the profile made of them; counted: the timecode of
    packets that bring none.
    """
    line = _moment_of(heard, seconds, counted)
    line["values"] = dict(heard.packet.values)
    if live:
        known = np.flatnonzero(np.isfinite(heard.made))
        line["live"] = {f"{LIVE}{CHANNELS[i]}": round(float(heard.made[i]), 5) for i in known}
    return orjson.dumps(line) + b"\n"


def head_line_of(heard: Heard, rows: Sequence[JointRow]) -> bytes:
    """The first line of a body's file, whose first packet is this."""
    return head_line(rows, _label_of(heard)) + b"\n"


def body_line_of(heard: Heard, seconds: float, counted: RunningCount | None = None) -> bytes:
    """The line of a packet's body: its joints and root, when it was sent and came, timecode."""
    return orjson.dumps(_moment_of(heard, seconds, counted) | body_fields(heard.packet)) + b"\n"


def _moment_of(heard: Heard, seconds: float, counted: RunningCount | None) -> dict[str, Any]:
    packet = heard.packet
    line: dict[str, Any] = {
        "seconds": round(seconds, 6),
        "arrived": round(heard.wall, 6),
        "timecode": _label_of(heard, counted),
    }
    if packet.number is not None:
        line["number"] = packet.number
    if packet.seconds is not None:
        line["sent"] = packet.seconds
    return line


def _label_of(heard: Heard, counted: RunningCount | None = None) -> str:
    if heard.packet.timecode:
        return heard.packet.timecode
    return labelled(counted.at(heard.wall)) if counted is not None else time_of_day(heard.wall)


def time_of_day(wall: float) -> str:
    """The machine's own clock as timecode with a remainder: of a packet that brings none."""
    seconds = (wall + time.localtime(wall).tm_gmtoff) % DAY
    return labelled(from_seconds(seconds, CLOCK))


def left_behind(folder: Path) -> list[Path]:
    """Folders of recordings that were not kept: their process ended before."""
    if not folder.is_dir():
        return []
    found = [f for f in folder.iterdir() if f.is_dir() and (f / ABOUT).exists()]
    return sorted(found, key=lambda f: (f / ABOUT).stat().st_mtime)


def forget(folder: Path) -> None:
    """Takes a recording's folder away, once it is kept."""
    shutil.rmtree(folder, ignore_errors=True)
