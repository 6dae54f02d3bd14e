"""WAV (RIFF): 8, 16, 24 and 32 bit whole numbers, 32 and 64 bit float, any number of channels up to 8; when it begins (`wav_time`)."""

import struct
from dataclasses import replace
from typing import Any

import numpy as np

from dynaface.core.clock.timecode import noted
from dynaface.core.errors import InputError
from dynaface.core.sound.ltc import count_of
from dynaface.core.sound.sound import Sound
from dynaface.core.sound.summary import SoundSummary
from dynaface.formats.format import Format
from dynaface.formats.wav_time import BEXT, IXML, begins, time_chunks

_WHOLE, _FLOAT, _EXTENSIBLE = 1, 3, 0xFFFE


def detect(head: bytes) -> bool:
    """RIFF with WAVE."""
    return head[:4] == b"RIFF" and head[8:12] == b"WAVE"


def read(data: bytes) -> Sound:
    """The sound; raises InputError naming the chunk and byte."""
    if not detect(data[:12]):
        raise InputError("this is no WAV: it does not begin with RIFF and WAVE", where="byte 0")
    form: tuple[int, int, int, int] | None = None
    sound: Sound | None = None
    beside: dict[bytes, bytes] = {}
    at = 12
    while at + 8 <= len(data):
        name, size = data[at : at + 4], struct.unpack_from("<I", data, at + 4)[0]
        body = at + 8
        label = f"chunk {name.decode('latin-1')!r} at byte {at}"
        if body + size > len(data) and name in (b"fmt ", b"data"):
            raise InputError(
                f"the WAV says that its {name.decode().strip()} has {size} bytes, but {len(data) - body} are there",
                where=label,
                hint="The file was cut off or its header is wrong; export it again",
            )
        if name == b"fmt ":
            form = _form(data[body : body + size], label)
        elif name == b"data":
            if form is None:
                raise InputError("the WAV has sound before it says in which form", where=label)
            sound = sound or _samples(data[body : body + size], form, label)
        elif name in (BEXT, IXML):
            beside[name] = data[body : body + size]
        at = body + size + (size & 1)
    if sound is not None:
        return heard_count(replace(sound, timecode=begins(beside, sound.rate)))
    raise InputError("the WAV has no sound in it", where=f"byte {min(at, len(data))}", hint="Export it again")


def heard_count(sound: Sound) -> Sound:
    """A sound that says no count itself, with the one that a channel of it carries as linear timecode; that channel is no sound."""
    found = count_of(sound) if sound.timecode is None and sound.samples.shape[1] > 1 else None
    if found is None:
        return sound
    channel, count = found
    return Sound(np.delete(sound.samples, channel, axis=1), sound.rate, count)


def _form(chunk: bytes, label: str) -> tuple[int, int, int, int]:
    if len(chunk) < 16:
        raise InputError("the WAV's format is cut short", where=label)
    tag, channels, rate, _, block, bits = struct.unpack_from("<HHIIHH", chunk)
    if tag == _EXTENSIBLE and len(chunk) >= 26:
        tag = struct.unpack_from("<H", chunk, 24)[0]
    if tag not in (_WHOLE, _FLOAT):
        raise InputError(f"the WAV is compressed (format {tag})", where=label, hint="Save it as uncompressed PCM")
    if bits not in ((8, 16, 24, 32) if tag == _WHOLE else (32, 64)):
        raise InputError(f"the WAV has {bits} bit samples", where=label, hint="Save it with 16, 24 or 32 bit")
    if not 1 <= channels <= 8 or not 4000 <= rate <= 384000:
        raise InputError(f"the WAV says {channels} channels at {rate} Hz", where=label,
                         hint="1 to 8 channels at 4 to 384 kHz are read")  # fmt: skip
    if block != channels * bits // 8:
        raise InputError(f"the WAV says {block} bytes a frame where {channels * bits // 8} are needed", where=label)
    return tag, channels, rate, bits


def _samples(raw: bytes, form: tuple[int, int, int, int], label: str) -> Sound:
    tag, channels, rate, bits = form
    frame = channels * bits // 8
    if len(raw) < frame:
        raise InputError("the WAV has no sound in it", where=label)
    raw = raw[: len(raw) // frame * frame]
    if tag == _FLOAT:
        samples: Any = np.frombuffer(raw, "<f4" if bits == 32 else "<f8").astype(np.float32)
        if not np.isfinite(samples).all():
            raise InputError("the WAV has samples that are not finite", where=label)
    elif bits == 8:
        samples = (np.frombuffer(raw, np.uint8).astype(np.float32) - 128) / 128
    elif bits == 24:
        triples = np.frombuffer(raw, np.uint8).reshape(-1, 3).astype(np.int32)
        whole = (triples[:, 0] << 8) | (triples[:, 1] << 16) | (triples[:, 2] << 24)
        samples = (whole >> 8).astype(np.float32) / (1 << 23)
    else:
        samples = np.frombuffer(raw, f"<i{bits // 8}").astype(np.float32) / (1 << (bits - 1))
    return Sound(np.clip(samples, -1, 1).reshape(-1, channels), rate)


def write(sound: Sound) -> bytes:
    """16 bit PCM, with the time reference of a sound that has a count."""
    whole = np.clip(np.round(sound.samples * 32767), -32768, 32767).astype("<i2")
    body = whole.tobytes()
    channels = sound.samples.shape[1]
    when = time_chunks(sound.timecode, sound.rate) if sound.timecode else b""
    return head(sound.rate, channels, len(body), when) + body


def head(rate: int, channels: int, size: int, when: bytes = b"") -> bytes:
    """What stands before `size` bytes of 16 bit samples; when: the chunks that say when they begin."""
    form = struct.pack("<HHIIHH", _WHOLE, channels, rate, rate * channels * 2, channels * 2, 16)
    return b"".join([b"RIFF", struct.pack("<I", 36 + len(when) + size), b"WAVEfmt ", struct.pack("<I", 16), form, when,
                     b"data", struct.pack("<I", size)])  # fmt: skip


def _check(sound: Sound) -> dict[str, Any]:
    summary = SoundSummary(sound.rate, sound.samples.shape[1])
    summary.add(sound.samples)
    return {**summary.findings(), **(noted(sound.timecode) if sound.timecode else {})}


FORMAT = Format("wav", "WAV sound (.wav)", "sound", (".wav", ".wave"), detect, read, write, _check, 512_000_000)
