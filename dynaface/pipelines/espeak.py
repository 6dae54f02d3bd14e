"""Speaks clauses with espeak-ng's library and writes what it gave: a program of its own, started by speaker.py, for the library keeps
state from one text to the next, and does not start twice. It needs nothing but Python (espeak-ng 1.51, speak_lib.h).

In: a JSON line {"voice", "speed", "clauses"}. Out: a JSON line {"rate", "clauses": [{"samples", "events": [[kind, sample, position,
phone]]}]} or {"error"}, then the samples as 16 bits.
"""

import ctypes
import json
import sys
from typing import Any

LIBRARY = "libespeak-ng.so.1"
SYNCHRONOUS, PHONEME_EVENTS, IPA = 2, 1, 2
END, WORD, PHONE = 0, 1, 7
UTF8 = 1
SPEED = 1  # the parameter by which words a minute are set


class _Name(ctypes.Union):
    _fields_ = (("number", ctypes.c_int), ("name", ctypes.c_char_p), ("string", ctypes.c_char * 8))


class _Event(ctypes.Structure):
    _fields_ = (
        ("type", ctypes.c_int), ("message", ctypes.c_uint), ("text_position", ctypes.c_int), ("length", ctypes.c_int),
        ("audio_position", ctypes.c_int), ("sample", ctypes.c_int), ("user_data", ctypes.c_void_p), ("id", _Name),
    )  # fmt: skip


_Callback = ctypes.CFUNCTYPE(ctypes.c_int, ctypes.POINTER(ctypes.c_short), ctypes.c_int, ctypes.POINTER(_Event))


def speak(asked: dict[str, Any]) -> tuple[dict[str, Any], bytes]:
    """(what is written as JSON, the samples of all clauses)."""
    try:
        library = ctypes.CDLL(LIBRARY)
    except OSError:
        return {"error": "absent"}, b""
    rate = library.espeak_Initialize(SYNCHRONOUS, 0, None, PHONEME_EVENTS | IPA)
    if rate <= 0:
        return {"error": "absent"}, b""
    if library.espeak_SetVoiceByName(asked["voice"].encode()) != 0:
        return {"error": "voice"}, b""
    library.espeak_SetParameter(SPEED, asked["speed"], 0)
    said = [_say(library, clause) for clause in asked["clauses"]]
    clauses = [{"samples": len(wave) // 2, "events": events} for wave, events in said]
    return {"rate": rate, "clauses": clauses}, b"".join(wave for wave, _ in said)


def _say(library: ctypes.CDLL, clause: str) -> tuple[bytes, list[list[Any]]]:
    """(samples, events of words and phones) of one clause."""
    samples: list[bytes] = []
    events: list[list[Any]] = []

    def hear(wave: Any, count: int, told: Any) -> int:
        if count > 0:
            samples.append(ctypes.string_at(wave, 2 * count))
        number = 0
        while told[number].type != END:
            event = told[number]
            if event.type in (WORD, PHONE):
                name = bytes(event.id).split(b"\0")[0].decode("utf-8", "replace") if event.type == PHONE else ""
                events.append([event.type, event.sample, event.text_position, name])
            number += 1
        return 0

    callback = _Callback(hear)
    library.espeak_SetSynthCallback(callback)
    said = clause.encode()
    library.espeak_Synth(said, len(said) + 1, 0, 1, 0, UTF8, None, None)
    library.espeak_Synchronize()
    return b"".join(samples), events


if __name__ == "__main__":
    head, body = speak(json.loads(sys.stdin.readline()))
    sys.stdout.buffer.write(json.dumps(head).encode() + b"\n" + body)
