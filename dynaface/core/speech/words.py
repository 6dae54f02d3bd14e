"""Words with their times, and the phones in each."""

from collections.abc import Sequence
from dataclasses import dataclass, replace

from dynaface.core.errors import InputError

SILENCE = "SIL"


@dataclass(frozen=True)
class Phone:
    """name: ARPAbet without stress, SIL for silence; first, last: seconds; lips, jaw: how much they count in made speech, 0..2."""

    name: str
    first: float
    last: float
    lips: float = 1.0
    jaw: float = 1.0


@dataclass(frozen=True)
class Word:
    """word: as it is written; first, last: seconds; phones: within it, in order; weights: how much its lips and its jaw count in
    made speech, 0..2; loud: against the words about it, 1 as loud as they are.
    """

    word: str
    first: float
    last: float
    phones: tuple[Phone, ...] = ()
    lips: float = 1.0
    jaw: float = 1.0
    loud: float = 1.0

    def __post_init__(self) -> None:
        if not self.first < self.last:
            raise InputError(f"the word {self.word!r:.60} goes from {self.first:g} to {self.last:g} s")

    def moved(self, first: float, last: float) -> "Word":
        """The word between other times; its phones keep their share of it. Raises InputError for times out of order."""
        scale = (last - first) / (self.last - self.first)
        phones = tuple(
            replace(p, first=first + (p.first - self.first) * scale, last=first + (p.last - self.first) * scale)
            for p in self.phones
        )
        return replace(self, first=first, last=last, phones=phones)


def phones_of(words: Sequence[Word]) -> list[tuple[Phone, Word | None]]:
    """All phones in order with the word that each is of, silence (of no word) between words that do not touch."""
    out: list[tuple[Phone, Word | None]] = []
    at = float("inf")
    for word in sorted(words, key=lambda w: w.first):
        for phone in word.phones or (Phone("AH", word.first, word.last),):
            if phone.first > at + 1e-6:
                out.append((Phone(SILENCE, at, phone.first), None))
            out.append((phone, word))
            at = phone.last if at == float("inf") else max(at, phone.last)
    return out


def phrases(words: Sequence[Word], pause: float = 0.25) -> list[tuple[float, float]]:
    """(first, last) seconds of what is said without a pause of `pause` seconds, in order."""
    out: list[tuple[float, float]] = []
    for word in sorted(words, key=lambda w: w.first):
        if out and word.first - out[-1][1] < pause:
            out[-1] = (out[-1][0], max(out[-1][1], word.last))
        else:
            out.append((word.first, word.last))
    return out
