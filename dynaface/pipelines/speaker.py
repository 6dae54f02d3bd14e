"""A text spoken by espeak-ng, with the time of each word and phone."""

import json
import re
import subprocess
import sys
from dataclasses import dataclass
from itertools import pairwise
from pathlib import Path
from typing import Any

import numpy as np

from dynaface.core.errors import InputError
from dynaface.core.sound.sound import Sound
from dynaface.core.speech.phones import phone_of_ipa
from dynaface.core.speech.words import Phone, Word
from dynaface.pipelines.espeak import PHONE, WORD

SLOWEST, QUICKEST = 80, 450  # words a minute
PATIENCE = 60  # seconds
_CLAUSE = re.compile(r"[,.;:!?()\"“”„«»…—–\n]+(?:\s|$)|\s[—–-]\s")
_WRITTEN = re.compile(r"[^\W_]+(?:['’-][^\W_]+)*['’]?")


@dataclass(frozen=True)
class _Told:
    """An event: WORD or PHONE, the sample at which it begins, its place in the text, the phone in IPA."""

    kind: int
    sample: int
    position: int
    name: str


@dataclass(frozen=True)
class Spoken:
    """A text as it was spoken: words with their phones in seconds of the sound."""

    sound: Sound
    words: tuple[Word, ...]


def speak(text: str, voice: str, words_a_minute: int = 160) -> Spoken:
    """The text in a voice, such as "en-us", "de" or "fr+f2", its clauses one after the other; raises InputError for a voice that is not
    there, or where the synthesiser is not installed.
    """
    # Over the end of a clause the library counts the places of words from elsewhere, so each is spoken by itself.
    clauses = [c for c in _CLAUSE.split(text) if _WRITTEN.search(c)]
    head, raw = _asked({"voice": voice, "speed": int(min(max(words_a_minute, SLOWEST), QUICKEST)), "clauses": clauses})
    rate, words = head["rate"], []
    samples, at = np.frombuffer(raw, "<i2"), 0
    for clause, told in zip(clauses, head["clauses"], strict=True):
        seconds, begins = told["samples"] / rate, at / rate
        found = _words(clause, [_Told(*event) for event in told["events"]], rate, seconds)
        words += [w.moved(w.first + begins, w.last + begins) for w in found]
        at += told["samples"]
    wave = samples.astype(np.float32) / np.float32(32768) if len(samples) else np.zeros(1, np.float32)
    return Spoken(Sound(wave[:, None].astype(np.float32), rate), tuple(words))


def _asked(request: dict[str, Any]) -> tuple[dict[str, Any], bytes]:
    """(what the synthesiser's program says, its samples); raises InputError."""
    program = str(Path(__file__).with_name("espeak.py"))
    try:
        ran = subprocess.run(
            [sys.executable, "-I", program],
            input=json.dumps(request).encode() + b"\n",
            capture_output=True,
            timeout=PATIENCE,
            check=True,
        )
    except (subprocess.SubprocessError, OSError):
        raise InputError("the speech synthesiser failed on this text", hint="Leave out what is no plain text") from None
    line, _, raw = ran.stdout.partition(b"\n")
    head = json.loads(line)
    if head.get("error") == "voice":
        raise InputError(f"there is no voice {request['voice']!r:.40}", hint="Choose a language that espeak-ng speaks")
    if "error" in head:
        raise InputError("the speech synthesiser is not installed", hint="Install Debian's package espeak-ng")
    return head, raw


def _words(text: str, events: list[_Told], rate: int, seconds: float) -> list[Word]:
    """Words as they are written with their phones. Short ones may be said as one ("would have"), and a number as several."""
    written = [(m.start(), m.group()) for m in _WRITTEN.finditer(text)]
    marks = [(e.sample / rate, phone_of_ipa(e.name)) for e in events if e.kind == PHONE]
    phones = [
        Phone(name, at, until)
        for (at, name), (until, _) in zip(marks, [*marks[1:], (seconds, None)], strict=True)
        if name is not None and until > at
    ]
    starts: list[tuple[int, float]] = []
    for event in events:
        if event.kind != WORD:
            continue
        # Places are counted in characters, from 1.
        index = max(sum(start < event.position for start, _ in written) - 1, 0)
        if not starts or index > starts[-1][0]:
            starts.append((index if starts else 0, event.sample / rate))
    out: list[Word] = []
    for (index, at), (behind, until) in zip(starts, [*starts[1:], (len(written), seconds + 1)], strict=True):
        own = tuple(p for p in phones if (at - 1e-4 <= p.first or index == 0) and p.first < until - 1e-4)
        if own:
            out += _parted([w for _, w in written[index:behind]], own)
    return out


def _parted(written: list[str], phones: tuple[Phone, ...]) -> list[Word]:
    """Words that are said in one, their phones by their share of the letters, at least one each where there are as many."""
    letters = np.cumsum([len(w) for w in written])
    edges = [0, *(round(len(phones) * n / letters[-1]) for n in letters)]
    for i in range(1, len(written)):
        edges[i] = min(max(edges[i], edges[i - 1] + 1), max(len(phones) - len(written) + i, edges[i - 1]))
    parts = [phones[a:b] for a, b in pairwise(edges)]
    return [Word(w, p[0].first, p[-1].last, p) for w, p in zip(written, parts, strict=True) if p]
