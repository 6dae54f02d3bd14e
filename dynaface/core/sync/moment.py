"""The recordings of a moment as bars on one ruler: where each begins by its count, how far that lies from a whole frame, what overlaps."""

from collections.abc import Mapping
from fractions import Fraction

from dynaface.core.clock.timecode import Timecode

DAY = Fraction(86_400)
FINEST = 1000  # parts of a frame of the count on which starts lie


def seconds_of(code: Timecode) -> Fraction:
    """Exact real seconds since the count began, a remainder below a frame included."""
    return (code.frames + Fraction(code.fraction).limit_denominator(10**6)) / code.rate


def starts_by_timecode(codes: Mapping[str, Timecode]) -> tuple[dict[str, Fraction], str]:
    """(seconds after the first of them at which each begins, which is first). Counts start anew at midnight: of all days on which they
    could have been recorded the nearest ones are taken. With none, ({}, "").
    """
    if not codes:
        return {}, ""
    anchor = next(iter(codes))
    base = seconds_of(codes[anchor])
    apart = {name: (seconds_of(code) - base + DAY / 2) % DAY - DAY / 2 for name, code in codes.items()}
    first = min(apart, key=lambda name: apart[name])
    return {name: at - apart[first] for name, at in apart.items()}, first


def on_grid(seconds: Fraction | float, fps: Fraction) -> Fraction:
    """The nearest thousandth of a frame of a count: starts that lie there stay short fractions however often they are moved by others."""
    return Fraction(round(Fraction(seconds) * fps * FINEST), FINEST) / fps


def moment_at(begins: Timecode, after: Fraction) -> Timecode:
    """The count at exact seconds after a moment; it begins anew at midnight."""
    exact = (seconds_of(begins) + after) % DAY * begins.rate
    frames = exact.numerator // exact.denominator
    return Timecode(frames, begins.rate, float(exact - frames), begins.drop)


def apart_from(spans: Mapping[str, tuple[Fraction, Fraction]]) -> dict[str, tuple[str, ...]]:
    """Of each recording, spans (begins, ends) in seconds, the others with which it has no moment in common."""
    return {
        name: tuple(
            other for other, (begins, ends) in spans.items() if other != name and (begins >= last or ends <= first)
        )
        for name, (first, last) in spans.items()
    }
