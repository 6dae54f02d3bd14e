"""What lies where in a shot or take, for programs that cut: an edit list."""

from dataclasses import dataclass, field, replace
from fractions import Fraction
from typing import Literal

from dynaface.core.clock.timecode import Timecode, from_seconds


@dataclass(frozen=True)
class Media:
    """A recording that clips are cut from. file: its name; seconds: its length; timecode: of its first frame, where it is known."""

    file: str
    seconds: Fraction
    timecode: Timecode | None = None


@dataclass(frozen=True)
class Piece:
    """A stretch of a recording. start, stop: seconds of the list; first: second of the recording at its start; speed: seconds of the recording
    a second of the list.
    """

    name: str
    start: Fraction
    stop: Fraction
    first: Fraction
    media: Media
    speed: Fraction = Fraction(1)


@dataclass(frozen=True)
class Track:
    """Pieces that do not overlap, by their starts."""

    name: str
    kind: Literal["picture", "sound"]
    pieces: tuple[Piece, ...]


@dataclass(frozen=True)
class Mark:
    """A remark at a moment. seconds: how long it lasts."""

    name: str
    at: Fraction
    seconds: Fraction = Fraction(0)


@dataclass(frozen=True)
class EditList:
    """seconds: its length; timecode: of its beginning, where it is known."""

    name: str
    rate: Fraction
    seconds: Fraction
    tracks: tuple[Track, ...]
    marks: tuple[Mark, ...] = field(default_factory=tuple)
    timecode: Timecode | None = None


def exact(seconds: float) -> Fraction:
    """Seconds to the microsecond."""
    return Fraction(seconds).limit_denominator(1_000_000)


def cut_to(edit: EditList, first: Fraction, seconds: Fraction) -> EditList:
    """What lies in a stretch of the list, which becomes all of it."""
    stop = first + seconds
    tracks = []
    for track in edit.tracks:
        pieces = []
        for piece in track.pieces:
            start, end = max(piece.start, first), min(piece.stop, stop)
            if start < end:
                begins = piece.first + (start - piece.start) * piece.speed
                pieces.append(replace(piece, start=start - first, stop=end - first, first=begins))
        tracks.append(replace(track, pieces=tuple(pieces)))
    marks = tuple(replace(m, at=m.at - first) for m in edit.marks if first <= m.at < stop)
    code = edit.timecode
    begins_at = code and from_seconds(max(code.seconds + float(first), 0.0), code.rate, code.drop)
    return replace(edit, seconds=seconds, tracks=tuple(t for t in tracks if t.pieces), marks=marks, timecode=begins_at)


def laid_apart(name: str, kind: Literal["picture", "sound"], pieces: list[Piece]) -> list[Track]:
    """As few tracks as hold the pieces without overlaps, the first by start on the first."""
    rows: list[list[Piece]] = []
    for piece in sorted(pieces, key=lambda p: (p.start, p.name)):
        row = next((r for r in rows if r[-1].stop <= piece.start), None)
        if row is None:
            rows.append([piece])
        else:
            row.append(piece)
    return [Track(name if not n else f"{name} {n + 1}", kind, tuple(row)) for n, row in enumerate(rows)]
