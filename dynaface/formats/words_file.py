"""words.json: words and phones with their times (docs/formats.md)."""

import json
from collections.abc import Sequence
from typing import Annotated

from pydantic import Field

from dynaface.core import checks
from dynaface.core.documents.model.record import Part, parse
from dynaface.core.speech.mouth import ASKED
from dynaface.core.speech.words import Phone, Word
from dynaface.formats.json_file import read_json

Seconds = Annotated[float, Field(ge=-60, le=36_000)]


class FilePhone(Part):
    """A phone (ARPAbet without stress) with its seconds; lips, jaw: how much they count in it."""

    phone: str = Field(max_length=12)
    first: Seconds
    last: Seconds
    lips: float = Field(default=1.0, ge=0, le=2)
    jaw: float = Field(default=1.0, ge=0, le=2)


class FileWord(Part):
    """A word with its seconds; lips, jaw: how much they count; loud: against the words about it."""

    word: str = Field(max_length=80)
    first: Seconds
    last: Seconds
    phones: list[FilePhone] = Field(default=[], max_length=60)
    lips: float = Field(default=1.0, ge=0, le=2)
    jaw: float = Field(default=1.0, ge=0, le=2)
    loud: float = Field(default=1.0, ge=0, le=4)


class WordsFile(Part):
    """All words of a sound."""

    words: list[FileWord] = Field(max_length=5000)


def read_words(data: bytes, name: str) -> list[Word]:
    """The words in the bytes; raises InputError with the place that is wrong."""
    out = []
    for word in parse(WordsFile, read_json(data, name), name).words:
        for phone in word.phones:
            checks.one_of(f"a phone of {word.word}", phone.phone, ASKED)
        phones = tuple(Phone(p.phone, p.first, p.last, p.lips, p.jaw) for p in word.phones if p.last > p.first)
        out.append(Word(word.word, word.first, word.last, phones, word.lips, word.jaw, word.loud))
    return sorted(out, key=lambda w: w.first)


def write_words(words: Sequence[Word]) -> bytes:
    """The words as words.json."""
    rows = [
        {"word": w.word, "first": round(w.first, 4), "last": round(w.last, 4), "lips": w.lips, "jaw": w.jaw, "loud": w.loud,
         "phones": [_phone(p) for p in w.phones]}
        for w in words
    ]  # fmt: skip
    return (json.dumps({"words": rows}, indent=1, ensure_ascii=False) + "\n").encode()


def _phone(phone: Phone) -> dict[str, object]:
    """A phone as it is written; weights only where it does not count whole."""
    plain: dict[str, object] = {"phone": phone.name, "first": round(phone.first, 4), "last": round(phone.last, 4)}
    return plain | ({} if phone.lips == phone.jaw == 1 else {"lips": phone.lips, "jaw": phone.jaw})
