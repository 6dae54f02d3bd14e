"""Footage to performer cards and curves. Needs no database: the command line uses it, and the jobs do."""

from collections.abc import Callable, Collection, Mapping, Sequence
from dataclasses import dataclass, replace
from typing import Any

import cv2
import numpy as np

from dynaface.core import checks
from dynaface.core.curves.channels import Channels, Recording
from dynaface.core.errors import InputError
from dynaface.core.markers.drive import Drive
from dynaface.core.shapes.spelling import match_name
from dynaface.core.shapes.standard import SHAPES
from dynaface.core.solve.card import CardMaker, PerformerCard, View
from dynaface.core.solve.clip import HEAD, TOGETHER, FrameSolver, Solve, finish
from dynaface.core.solve.drive_by_landmarks import driven_by_landmarks, places_on_head
from dynaface.core.solve.measured import Measured, MeasuredFrames
from dynaface.core.solve.neutral_frames import frames_about, neutral_frames
from dynaface.core.solve.tacks import Tack, tacks_within
from dynaface.core.tidy.stack import evaluate
from dynaface.core.track.camera import FOV, camera_of
from dynaface.core.track.footage import Footage
from dynaface.core.track.landmarks import POINTS, LandmarkFinder, Landmarks
from dynaface.formats.head_file import general_head, landmark_model, landmark_places

OnFrame = Callable[[int], None]
Found = Sequence[Landmarks | None]
LEAD, FARTHEST_LEAD = (
    8,
    90,
)  # frames before a stretch that are looked at to get going; where landmarks are lost, at most
NEAR = 60  # frames over which pictures are read on to the next that is wanted; farther away it is jumped to


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


def find_landmarks(footage: Footage, first: int = 0, last: int | None = None, on_frame: OnFrame = _silent) -> Found:
    """Landmarks of frames first to last; on_frame: called with each frame's number."""
    end = footage.frames - 1 if last is None else last
    start = max(0, first - LEAD)
    out: list[Landmarks | None] = []
    with LandmarkFinder(landmark_model(), float(footage.rate)) as finder:
        for number, picture in zip(range(start, end + 1), footage.pictures(start), strict=False):
            out.append(finder.find(picture))
            if number >= first:
                on_frame(number)
    # A damaged tail has no pictures.
    return (out + [None] * (end + 1 - start - len(out)))[first - start :]


def views_of(footage: Footage, found: Sequence[Landmarks | None], wanted: Collection[int]) -> dict[int, View]:
    """The wanted frames in which a face was found."""
    out: dict[int, View] = {}
    for near in _near(sorted(wanted)):
        for number, picture in zip(range(near[0], near[-1] + 1), footage.pictures(near[0]), strict=False):
            mark = found[number]
            if number in near and mark is not None:
                out[number] = View(cv2.cvtColor(picture, cv2.COLOR_RGB2GRAY), mark)
    return out


def _near(frames: Sequence[int]) -> list[list[int]]:
    """Rising numbers of frames in groups that are near each other."""
    out: list[list[int]] = []
    for frame in frames:
        if out and frame - out[-1][-1] <= NEAR:
            out[-1].append(frame)
        else:
            out.append([frame])
    return out


def make_card(rom: Footage, samples: Samples, turn: Footage | None = None, fov: float = FOV,
              found: Sequence[Landmarks | None] | None = None, turned: Sequence[Landmarks | None] | None = None,
              again: Mapping[str, View] | None = None) -> PerformerCard:  # fmt: skip
    """A card from a range-of-motion clip and, where there is one, a neutral head turn.

    found, turned: the landmarks of both, where they are known already; again: views of samples that were taken again
    in clips of their own, in place of those of the range of motion.
    """
    checks.within("fov", fov, 5, 120)
    first, last = samples.neutral
    step = max(1, (last - first) // 12)
    neutral = set(range(first, last + 1, step))
    late = max([last, *samples.samples.values()])
    if late >= rom.frames:
        raise InputError(f"samples names frame {late}, but the clip has {rom.frames} frames")
    seen = views_of(
        rom, found if found is not None else find_landmarks(rom, 0, late), neutral | set(samples.samples.values())
    )
    around: dict[int, View] = {}
    if turn is not None:
        if (turn.width, turn.height) != (rom.width, rom.height):
            raise InputError(f"the head turn is {turn.width} x {turn.height} pixels, the range of motion {rom.width} x {rom.height}",
                             hint="Record both with the same camera")  # fmt: skip
        marks = turned if turned is not None else find_landmarks(turn)
        around = views_of(turn, marks, set(range(0, turn.frames, max(1, turn.frames // 50))))
    maker = CardMaker(general_head(), landmark_places(), (rom.width, rom.height), fov,
                      [seen[n] for n in sorted(neutral & set(seen))], [around[n] for n in sorted(around)])  # fmt: skip
    groups: dict[int, list[str]] = {}
    anew = again or {}
    for shape, frame in samples.samples.items():
        if frame in seen and shape not in anew:
            groups.setdefault(frame, []).append(shape)
    views = {s: seen[f] for f, g in groups.items() for s in g} | dict(anew)
    return maker.finish(views, [*groups.values(), *([s] for s in anew)])


def neutral_of_clip(
    footage: Footage, found: Sequence[Landmarks | None], chosen: int | None = None, fov: float = FOV
) -> list[int]:
    """The frames of a clip that are taken for neutral: those about a chosen one, or else those in which the least is expressed."""
    if chosen is not None:
        return frames_about(found, chosen, float(footage.rate))
    camera = camera_of(footage.width, footage.height, fov)
    return neutral_frames(general_head(), landmark_places(), camera, found, float(footage.rate))


def card_of_clip(
    footage: Footage, found: Sequence[Landmarks | None], neutral: Collection[int], fov: float = FOV
) -> PerformerCard:
    """A card from nothing but a clip, its landmarks and the frames that are neutral."""
    views = views_of(footage, found, neutral)
    maker = CardMaker(general_head(), landmark_places(), (footage.width, footage.height), fov, list(views.values()), [])
    return maker.finish({}, [])


def measure_footage(footage: Footage, found: Sequence[Landmarks | None], card: PerformerCard, first: int, last: int,
                    on_frame: OnFrame = _silent) -> Measured:  # fmt: skip
    """What frames first to last of a clip with landmarks say by a card. It begins a little earlier and forgets that, so
    that stretches measured apart join; on_frame: called with each frame's number.
    """
    solver = FrameSolver(general_head(), landmark_places(), for_size(card, footage), footage.rate)
    start = max(0, first - LEAD)
    while start > max(0, first - FARTHEST_LEAD) and found[start] is None:
        start -= 1  # a face whose landmarks are lost is followed from where they were
    pictures = footage.pictures(start)
    nothing = np.zeros((footage.height, footage.width), np.uint8)
    for number in range(start, last + 1):
        picture = next(pictures, None)
        grey = nothing if picture is None else cv2.cvtColor(picture, cv2.COLOR_RGB2GRAY)
        solver.add(grey, None if picture is None else found[number])
        if number >= first:
            on_frame(number)
    return solver.measured(first - start)


def span_of(footage: Footage, first: int, last: int | None) -> tuple[int, int]:
    """(first, last) within the clip; raises InputError for frames that it has not."""
    end = footage.frames - 1 if last is None else min(last, footage.frames - 1)
    if not 0 <= first <= end:
        raise InputError(f"frames {first}..{end} are asked for, but the clip has {footage.frames}")
    return first, end


def finish_footage(footage: Footage, card: PerformerCard, measured: MeasuredFrames, first: int, tacks: Sequence[Tack] = (),
                   moves: str = HEAD) -> Solve:  # fmt: skip
    """The solve of what was measured from frame `first` on; tacks count the clip's frames."""
    code = replace(footage.timecode, frames=footage.timecode.frames + first) if footage.timecode else None
    own = tacks_within(tacks, first, first + measured.frames - 1)
    return finish(for_size(card, footage), measured, footage.rate, code, own, moves)


def with_drives(solve: Solve, footage: Footage, card: PerformerCard, found: Sequence[Landmarks | None], first: int,
                drives: Mapping[str, Drive]) -> Solve:  # fmt: skip
    """The solve with channels that distances on the face drive; found: landmarks of the clip's frames, first: the clip's frame that the
    solve begins at.
    """
    if not drives:
        return solve
    lost = np.full((POINTS, 2), np.nan)
    used, parts = for_size(card, footage), []
    for at in range(0, solve.channels.frames, TOGETHER):
        own = slice(at, min(at + TOGETHER, solve.channels.frames))
        pixels = np.array([lost if m is None else m.points for m in found[first + own.start : first + own.stop]])
        part = replace(solve.channels, values=solve.channels.values[own])
        weights = part.values[:, : len(SHAPES)].astype(np.float64)
        places = places_on_head(used, general_head(), landmark_places(), pixels, solve.poses[own], weights)
        parts.append(driven_by_landmarks(part, drives, *places))
    values = np.concatenate([p.values for p in parts])
    return replace(solve, channels=replace(parts[0], values=values))


def solve_footage(footage: Footage, card: PerformerCard, first: int = 0, last: int | None = None, on_frame: OnFrame = _silent,
                  found: Sequence[Landmarks | None] | None = None, tacks: Sequence[Tack] = (), moves: str = HEAD) -> Solve:  # fmt: skip
    """The curves of a clip by a card, from frame `first` to `last`; found: its landmarks, where they are known."""
    first, end = span_of(footage, first, last)
    if found is None:
        found = [*[None] * first, *find_landmarks(footage, first, end)]
    return finish_footage(
        footage, card, measure_footage(footage, found, card, first, end, on_frame), first, tacks, moves
    )


def same_shape(one: tuple[int, int], other: tuple[int, int]) -> bool:
    """Whether two sizes of pictures are of one shape, as those of one camera are."""
    return abs(one[0] / one[1] - other[0] / other[1]) <= 0.02


def for_size(card: PerformerCard, footage: Footage) -> PerformerCard:
    """The card for pictures of another size of the same camera."""
    size = (footage.width, footage.height)
    if not same_shape(size, card.size):
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
