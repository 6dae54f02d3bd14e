"""Video: MP4, MOV, WebM, MKV and AVI with any codec that PyAV decodes, and what is written for proxies and simulators."""

import io
from collections.abc import Iterable, Iterator
from fractions import Fraction
from itertools import chain
from typing import Any, BinaryIO

import av
import numpy as np
from numpy.typing import NDArray

from dynaface.core.clock.rates import nominal_rate, parse_rate
from dynaface.core.clock.timecode import Timecode, parse_timecode
from dynaface.core.errors import DynafaceError, InputError, LimitError
from dynaface.core.sound.sound import Sound
from dynaface.core.track.footage import Footage
from dynaface.formats.footage_findings import MAX_SIDE, footage_findings
from dynaface.formats.format import Format
from dynaface.formats.stored import Held, Stored

MAX_FRAMES = 500_000

PIECE = 1024  # samples that are coded at a time


def detect(head: bytes) -> bool:
    """An ISO media box, an EBML header or RIFF with AVI."""
    return head[4:8] == b"ftyp" or head[:4] == b"\x1a\x45\xdf\xa3" or (head[:4] == b"RIFF" and head[8:12] == b"AVI ")


def read(data: bytes) -> Footage:
    """The footage, its pictures still to be decoded; raises InputError for what is no sound video."""
    return read_in_place(Held(data))


def read_in_place(stored: Stored) -> Footage:
    """The same of a video wherever it lies, which may be longer than memory holds."""
    with stored.file() as file:
        known = detect(file.read(16))
    if not known:
        raise InputError(
            "this is no video that can be read", where="byte 0", hint="Bring an MP4, MOV, WebM, MKV or AVI"
        )
    try:
        with stored.file() as file, av.open(file, metadata_errors="replace") as container:
            return _described(container, stored)
    except DynafaceError:
        raise
    except (av.FFmpegError, ValueError, OverflowError, MemoryError) as error:
        raise InputError(f"the video cannot be opened: {error}", hint="It may be cut off; export it again") from None


def _described(container: Any, stored: Stored) -> Footage:
    if not container.streams.video:
        what = "only sound" if container.streams.audio else "no pictures"
        raise InputError(f"the video has {what} in it", hint="Bring the file that has the pictures")
    stream = container.streams.video[0]
    if stream.codec_context is None or stream.time_base is None:
        raise InputError("the video is in a form that cannot be decoded", hint="Export it as H.264 in an .mp4")
    width, height = stream.codec_context.width, stream.codec_context.height
    if not 16 <= width <= MAX_SIDE or not 16 <= height <= MAX_SIDE:
        raise LimitError(f"the video says {width} x {height} pixels", hint=f"16 to {MAX_SIDE} pixels each way are read")
    stamps = sorted(p.pts for p in container.demux(stream) if p.pts is not None and p.size)
    if not stamps:
        raise InputError("the video has no pictures in it", hint="It may be cut off; export it again")
    if len(stamps) > MAX_FRAMES:
        raise LimitError(f"the video has {len(stamps)} pictures", hint=f"At most {MAX_FRAMES}; cut it into several")
    times = (np.array(stamps, np.float64) - stamps[0]) * float(stream.time_base)
    rate = _rate(stream, times)
    first = _first(stored)
    if first.rotation % 180:
        width, height = height, width
    code = stream.metadata.get("timecode") or container.metadata.get("timecode") or ""
    return Footage(
        width, height, times, rate, stream.codec_context.name, bool(container.streams.audio), _timecode(code, rate),
        lambda first: _pictures(stored, stamps[first] if first else None),
    )  # fmt: skip


def _first(stored: Stored) -> Any:
    with stored.file() as file, av.open(file) as container:
        for frame in container.decode(video=0):
            return frame
    raise InputError("no picture of the video can be decoded", hint="It may be cut off; export it again")


def _rate(stream: Any, times: NDArray[np.float64]) -> Fraction:
    if len(times) < 2:
        return parse_rate(float(stream.average_rate or 30))
    return nominal_rate(times)


def _timecode(text: str, rate: Fraction) -> Timecode | None:
    try:
        return parse_timecode(text, rate) if text else None
    except InputError:
        return None


def _pictures(stored: Stored, stamp: int | None) -> Iterator[NDArray[np.uint8]]:
    """Pictures from a time stamp on, or all."""
    with stored.file() as file, av.open(file) as container:
        stream = container.streams.video[0]
        stream.thread_type = "AUTO"
        try:
            for frame in _from(container, stream, stamp):
                picture = frame.to_ndarray(format="rgb24")
                turns = round(frame.rotation / 90) % 4
                yield np.ascontiguousarray(np.rot90(picture, turns)) if turns else picture
        except av.FFmpegError:
            return  # a damaged tail: what was decoded so far counts


def _from(container: Any, stream: Any, stamp: int | None) -> Iterator[Any]:
    """Frames from a time stamp on: from the key picture before it, or from the start where that is not found."""
    frames = container.decode(stream)
    if stamp is not None:
        try:
            container.seek(stamp, stream=stream)
            first = next(frames, None)
        except av.FFmpegError:
            first = None
        if first is None or first.pts is None or first.pts > stamp:
            container.seek(0)
            frames = container.decode(stream)
        elif first.pts == stamp:
            yield first
    yield from (f for f in frames if stamp is None or f.pts is None or f.pts >= stamp)


def sound_of(data: bytes) -> Sound:
    """The sound of a video; raises InputError where there is none."""
    with av.open(io.BytesIO(data)) as container:
        audio = sound_stream(container)
        heard = list(heard_in(container, av.AudioResampler(format="flt", layout="stereo", rate=audio.rate), 2))
    return Sound(np.clip(np.concatenate(heard), -1, 1).astype(np.float32), audio.rate)


def sound_stream(container: Any) -> Any:
    """The sound of an open video; raises InputError where there is none."""
    if not container.streams.audio:
        raise InputError("the video has no sound in it")
    return container.streams.audio[0]


def heard_in(container: Any, resampler: Any, channels: int) -> Iterator[NDArray[Any]]:
    """The samples (n, channels) of its sound piece by piece, as the resampler makes them; raises InputError where none can be decoded."""
    heard = False
    for frame in chain(container.decode(audio=0), [None]):  # at last, what the resampler still holds
        for made in resampler.resample(frame):
            heard = True
            yield made.to_ndarray().reshape(-1, channels)
    if not heard:
        raise InputError("the sound of the video cannot be decoded")


def encode(pictures: Iterable[NDArray[np.uint8]], rate: Fraction, quality: int = 17, group: int = 15, timecode: str = "",
           sound: Sound | None = None) -> bytes:  # fmt: skip
    """An H.264 MP4 of pictures, as `write` writes it."""
    out = io.BytesIO()
    write(out, pictures, rate, quality, group, timecode, sound)
    return out.getvalue()


def write(out: BinaryIO, pictures: Iterable[NDArray[np.uint8]], rate: Fraction, quality: int = 17, group: int = 15,
          timecode: str = "", sound: Sound | None = None) -> None:  # fmt: skip
    """Writes an H.264 MP4 of pictures (height, width, 3) RGB, a key picture every `group`; a sound goes along as AAC from the first
    one on. Pictures are asked for as they are coded. Raises InputError for no picture.
    """
    with av.open(out, "w", format="mp4") as container:
        stream: Any = None
        voice: _Voice | None = None
        for number, picture in enumerate(pictures):
            picture = picture[: picture.shape[0] // 2 * 2, : picture.shape[1] // 2 * 2]
            if stream is None:
                stream = container.add_stream("libx264", rate=rate)
                stream.height, stream.width = picture.shape[:2]
                stream.pix_fmt = "yuv420p"
                stream.options = {"crf": str(quality), "preset": "veryfast", "g": str(group), "bf": "0"}
                if timecode:
                    container.metadata["timecode"] = timecode
                voice = _Voice(container, sound) if sound else None
            for packet in stream.encode(av.VideoFrame.from_ndarray(np.ascontiguousarray(picture), "rgb24")):
                container.mux(packet)
            if voice:
                voice.write_until((number + 1) / rate)
        if stream is None:
            raise InputError("there is no picture to write")
        for packet in stream.encode():
            container.mux(packet)
        if voice:
            voice.end()


class _Voice:
    """Writes a sound beside pictures, as far as they have come: a file whose parts lie together can be played while it is read."""

    def __init__(self, container: Any, sound: Sound) -> None:
        samples = sound.samples if sound.samples.shape[1] <= 2 else sound.mono()[:, None]
        self.samples, self.rate, self.at = np.ascontiguousarray(samples.T), sound.rate, 0
        self.layout = "stereo" if len(self.samples) == 2 else "mono"
        self.container = container
        self.stream = container.add_stream("aac", rate=sound.rate, layout=self.layout)

    def write_until(self, seconds: Fraction) -> None:
        """All that is heard before a moment."""
        while self.at < min(seconds * self.rate, self.samples.shape[1]):
            piece = np.ascontiguousarray(self.samples[:, self.at : self.at + PIECE])
            frame = av.AudioFrame.from_ndarray(piece, format="fltp", layout=self.layout)
            frame.sample_rate, frame.pts, frame.time_base = self.rate, self.at, Fraction(1, self.rate)
            self.at += PIECE
            for packet in self.stream.encode(frame):
                self.container.mux(packet)

    def end(self) -> None:
        """What the coder still holds."""
        for packet in self.stream.encode():
            self.container.mux(packet)


FORMAT = Format("video", "video (.mp4, .mov, .webm, .mkv, .avi)", "footage", (".mp4", ".mov", ".m4v", ".webm", ".mkv", ".avi"),
                detect, read, None, footage_findings, 20_000_000_000, read_in_place)  # fmt: skip
