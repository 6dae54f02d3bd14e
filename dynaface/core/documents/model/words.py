"""The words of a sound: what is said in it, and when."""

from typing import Annotated, ClassVar, Literal

from pydantic import Field, model_validator

from dynaface.core.documents.model.record import Body, Identity, Key, Part, Reference
from dynaface.core.speech.words import Phone, Word

MAX_WORDS = 5000
Share = Annotated[tuple[Annotated[str, Field(max_length=12)], float], Field(strict=False)]
"""A phone and the share of its word, 0..1, at which it ends."""
Counted = Annotated[float, Field(ge=0, le=2)]
WeightedShare = Annotated[tuple[Annotated[str, Field(max_length=12)], float, Counted, Counted], Field(strict=False)]
"""The same with how much lips and jaw count in it."""


class WordEntry(Part):
    """first, last: seconds of the sound; phones: in order, within the word wherever its edges are; lips, jaw: how much they count in
    made speech; loud: against the words about it.
    """

    word: str = Field(max_length=80)
    first: float = Field(ge=-60, le=36_000)
    last: float = Field(ge=-60, le=36_000)
    phones: list[Share | WeightedShare] = Field(default=[], max_length=60)
    lips: float = Field(default=1.0, ge=0, le=2)
    jaw: float = Field(default=1.0, ge=0, le=2)
    loud: float = Field(default=1.0, ge=0, le=4)

    @property
    def spoken(self) -> Word:
        """The word; raises InputError for one that ends before it begins."""
        at, phones = self.first, []
        for name, share, *weights in self.phones:
            ends = self.first + (self.last - self.first) * min(max(share, 0.0), 1.0)
            if ends > at:
                phones.append(Phone(name, at, ends, *weights))
            at = max(at, ends)
        return Word(self.word, self.first, self.last, tuple(phones), self.lips, self.jaw, self.loud)

    @model_validator(mode="after")
    def _sound(self) -> "WordEntry":
        _ = self.spoken
        return self


class WordsBody(Body):
    """The words of one sound. text: as it was given; language: a code such as "en"."""

    kind: ClassVar[str] = "words"
    fixed: ClassVar[frozenset[str]] = frozenset({"schema", "sound"})

    schema_number: Literal[1] = Field(default=1, alias="schema")
    sound: Identity
    text: str = Field(default="", max_length=4000)
    language: str = Field(default="en", max_length=12)
    words: dict[Key, WordEntry] = Field(default={}, max_length=MAX_WORDS)

    @property
    def spoken(self) -> list[Word]:
        """The words in order."""
        return sorted((w.spoken for w in self.words.values()), key=lambda w: w.first)

    def references(self) -> tuple[Reference, ...]:
        """The sound."""
        return (Reference("sound", "source", "sound", self.sound),)


def entry_of(word: Word) -> WordEntry:
    """A word as an entry."""
    length = word.last - word.first
    phones: list[Share | WeightedShare] = []
    for p in word.phones:
        share = round((p.last - word.first) / length, 5)
        phones.append((p.name, share) if p.lips == p.jaw == 1 else (p.name, share, p.lips, p.jaw))
    return WordEntry(
        word=word.word[:80],
        first=round(word.first, 4),
        last=round(word.last, 4),
        phones=phones,
        lips=word.lips,
        jaw=word.jaw,
        loud=round(word.loud, 3),
    )
