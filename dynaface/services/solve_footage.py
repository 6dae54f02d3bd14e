"""Footage to performer cards and curves. Needs no database: the command line uses it, and the jobs do."""

from collections.abc import Callable, Iterable, Iterator, Mapping
from dataclasses import dataclass, replace
from typing import Any

import cv2
import numpy as np
from numpy.typing import NDArray

from dynaface.core import checks
from dynaface.core.curves.channels import Channels, Recording
from dynaface.core.errors import InputError
from dynaface.core.shapes.spelling import match_name
from dynaface.core.shapes.standard import SHAPES
from dynaface.core.solve.card import CardMaker, PerformerCard, View
from dynaface.core.solve.clip import FrameSolver, Solve, solve_clip
from dynaface.core.tidy.stack import evaluate
from dynaface.core.track.footage import Footage
from dynaface.core.track.landmarks import LandmarkFinder, Landmarks
from dynaface.formats.head_file import general_head, landmark_model, landmark_places

FOV = 40.0  # degrees from top to bottom, where nothing is known of the lens
Told = Callable[[int], None]
Look = tuple[NDArray[np.uint8], Landmarks | None]


def _silent(frame: int) -> None:
    """Nobody listens."""


@dataclass(frozen=True)
class Samples:
    """neutral: first and last frame of the still face; samples: shape -> frame of its extreme."""

    neutral: tuple[int, int]
    samples: Mapping[str, int]


def parse_samples(data: Any) -> Samples:
    """From samples.json (docs/formats.md); raises InputError."""
    if not isinstance(data, Mapping) or "neutral" not in data:
        raise InputError(
            "this names no samples", hint='It must be {"neutral": [first, last], "samples": {shape: frame}}'
        )
    neutral = data["neutral"]
    if not isinstance(neutral, list) or len(neutral) != 2 or not all(isinstance(v, int) for v in neutral):
        raise InputError(f"neutral is {neutral!r}; it must be [first, last] in frames")
    first, last = neutral
    if not 0 <= first <= last:
        raise InputError(f"neutral is {first}..{last}; the first frame must not come after the last")
    out: dict[str, int] = {}
    for name, frame in dict(data.get("samples", {})).items():
        shape = match_name(str(name))
        if shape not in SHAPES:
            raise InputError(f"samples names {name!r}, which is no standard shape")
        if not isinstance(frame, int) or frame < 0:
            raise InputError(f"the sample of {name} is at frame {frame!r}; it must be a frame number")
        out[shape] = frame
    return Samples((first, last), out)


def looks_at(footage: Footage, told: Told = _silent) -> Iterator[Look]:
    """Each picture in grey with its landmarks."""
    with LandmarkFinder(landmark_model(), float(footage.rate)) as finder:
        for number, picture in enumerate(footage.pictures()):
            told(number)
            yield cv2.cvtColor(picture, cv2.COLOR_RGB2GRAY), finder.find(picture)


def with_landmarks(footage: Footage, known: Iterable[Landmarks | None]) -> Iterator[Look]:
    """The same from landmarks that were found before."""
    for picture, found in zip(footage.pictures(), known, strict=False):
        yield cv2.cvtColor(picture, cv2.COLOR_RGB2GRAY), found


def _picked(looks: Iterable[Look], wanted: set[int]) -> dict[int, View]:
    return {n: View(g, m) for n, (g, m) in enumerate(looks) if n in wanted and m is not None}


def make_card(rom: Footage, samples: Samples, turn: Footage | None = None, fov: float = FOV, told: Told = _silent,
              looks: Iterable[Look] | None = None) -> PerformerCard:  # fmt: skip
    """A card from a range-of-motion clip and, where there is one, a neutral head turn.

    looks: what is seen in rom, where it is known already.
    """
    checks.within("fov", fov, 5, 120)
    first, last = samples.neutral
    step = max(1, (last - first) // 12)
    neutral = set(range(first, last + 1, step))
    late = max([last, *samples.samples.values()])
    if late >= rom.frames:
        raise InputError(f"samples names frame {late}, but the clip has {rom.frames} frames")
    seen = _picked(looks if looks is not None else looks_at(rom, told), neutral | set(samples.samples.values()))
    turned: dict[int, View] = {}
    if turn is not None:
        if (turn.width, turn.height) != (rom.width, rom.height):
            raise InputError(f"the head turn is {turn.width} x {turn.height} pixels, the range of motion {rom.width} x {rom.height}",
                             hint="Record both with the same camera")  # fmt: skip
        turned = _picked(looks_at(turn), set(range(0, turn.frames, max(1, turn.frames // 50))))
    maker = CardMaker(general_head(), landmark_places(), (rom.width, rom.height), fov,
                      [seen[n] for n in sorted(neutral & set(seen))], [turned[n] for n in sorted(turned)])  # fmt: skip
    groups: dict[int, list[str]] = {}
    for shape, frame in samples.samples.items():
        if frame in seen:
            groups.setdefault(frame, []).append(shape)
    return maker.finish({s: seen[f] for f, g in groups.items() for s in g}, list(groups.values()))


def card_of_clip(footage: Footage, fov: float = FOV, looks: Iterable[Look] | None = None) -> PerformerCard:
    """A card from nothing but a clip: its stillest second that looks ahead is taken for neutral."""
    seen = [(g, m) for g, m in (looks if looks is not None else looks_at(footage))]
    known = [n for n, (_, m) in enumerate(seen) if m is not None]
    if not known:
        raise InputError("no face is seen in any frame", hint="Check that the face is in the picture, upright and lit")
    return _neutral_card(footage, seen, stillest([m for _, m in seen], float(footage.rate)), fov)


def _neutral_card(footage: Footage, seen: list[Look], neutral: tuple[int, int], fov: float) -> PerformerCard:
    views = [View(g, m) for g, m in seen[neutral[0] : neutral[1] + 1 : 2] if m is not None]
    maker = CardMaker(general_head(), landmark_places(), (footage.width, footage.height), fov, views, [])
    return maker.finish({}, [])


def stillest(found: list[Landmarks | None], rate: float) -> tuple[int, int]:
    """(first, last) of the stillest second with the mouth closed and the eyes open."""
    length = max(3, min(round(rate), len(found)))
    points = np.array([m.points if m else np.full((478, 2), np.nan) for m in found], np.float64)
    scores = np.array([m.scores if m else np.ones(len(SHAPES)) for m in found], np.float64)
    size = np.nanmedian(np.linalg.norm(points[:, 10] - points[:, 152], axis=1))
    moved = np.nan_to_num(np.linalg.norm(np.diff(points, axis=0), axis=2).mean(axis=1) / max(size, 1), nan=1.0)
    busy = scores[:, [SHAPES.index(s) for s in ("jawOpen", "eyeBlinkLeft", "eyeBlinkRight", "mouthSmileLeft")]].sum(
        axis=1
    )
    cost = np.concatenate([moved, moved[-1:]]) * 30 + busy if len(moved) else busy
    sums = np.convolve(cost, np.ones(length), "valid")
    first = int(np.argmin(sums))
    return first, first + length - 1


def solve_footage(footage: Footage, card: PerformerCard, first: int = 0, last: int | None = None,
                  told: Told = _silent, looks: Iterable[Look] | None = None) -> Solve:  # fmt: skip
    """The curves of a clip by a card, from frame `first` to `last`; told: called with each frame's number."""
    if (footage.width, footage.height) != card.size:
        card = _for_size(card, (footage.width, footage.height))
    end = footage.frames - 1 if last is None else min(last, footage.frames - 1)
    if not 0 <= first <= end:
        raise InputError(f"frames {first}..{end} are asked for, but the clip has {footage.frames}")
    solver = FrameSolver(general_head(), landmark_places(), card, footage.rate)
    seen = enumerate(looks if looks is not None else looks_at(footage))
    chosen = (look for number, look in seen if first <= number <= end)
    code = replace(footage.timecode, frames=footage.timecode.frames + first) if footage.timecode else None
    return solve_clip(solver, _until(chosen, end - first + 1), code, told)


def _until(looks: Iterator[Look], count: int) -> Iterator[Look]:
    for number, look in enumerate(looks, 1):
        yield look
        if number == count:
            return


def _for_size(card: PerformerCard, size: tuple[int, int]) -> PerformerCard:
    """The card for pictures of another size of the same camera."""
    if abs(size[0] / size[1] - card.size[0] / card.size[1]) > 0.02:
        raise InputError(f"the clip is {size[0]} x {size[1]} pixels, the card was made with {card.size[0]} x {card.size[1]}",
                         hint="Make the card with the same camera")  # fmt: skip
    return replace(card, size=size)


def even_channels(solve: Solve, footage: Footage, first: int = 0) -> Channels:
    """The solve's channels even in time, where the footage's own pictures are not."""
    times = footage.times[first : first + solve.channels.frames]
    own = np.diff(times)
    if len(own) == 0 or own.max() < 1.5 / float(footage.rate):
        return solve.channels
    recording = Recording(
        solve.channels.names, times - times[0], solve.channels.values, footage.rate, solve.channels.timecode
    )
    return evaluate(recording, ())
