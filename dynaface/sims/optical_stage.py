"""A made-up optical stage: markers on a made-up performer's face, with noise, gaps, swaps, spare markers and head motion."""

import json
from dataclasses import dataclass, replace
from fractions import Fraction
from typing import Any

import numpy as np

from dynaface.assets import ASSETS
from dynaface.core.body.rotations import head_rotation, rotate
from dynaface.core.clock.timecode import Timecode
from dynaface.core.curves.channels import Channels
from dynaface.core.curves.rerate import at_rate
from dynaface.core.markers.chart import MARKS, with_irises
from dynaface.core.markers.take import Array, MarkerTake
from dynaface.core.shapes.standard import HEAD_ANGLES, SHAPES
from dynaface.core.track.likeness import Places
from dynaface.formats.head_file import general_head, landmark_places
from dynaface.sims.footage.performer import Performer, make_performer
from dynaface.sims.footage.script import expressive, range_of_motion
from dynaface.sims.speech import Phone

RATE = Fraction(120)
ORIGIN = np.array([0.1, 1.62, 0.3])  # of the stage, from between the eyes
NECK = np.array([0.0, -0.10, -0.09])  # what the head turns about, from between the eyes


@dataclass(frozen=True)
class Stage:
    """noise: metres; gaps: share of samples that are lost, in runs; swaps: pairs of markers that change their names for a
    while; spare: markers on collar and headband that sit on no place of the chart; turned: the stage's own axes (3, 3);
    additive: shapes simply add up, as no real face does.
    """

    noise: float = 0.0002
    gaps: float = 0.0
    swaps: int = 0
    spare: int = 0
    turned: Array | None = None
    additive: bool = False


def head_sway(frames: int) -> Array:
    """(frames, 3) metres by which the performer's head wanders, beside how it turns."""
    seconds = np.arange(frames)[:, None] / float(RATE)
    return 0.01 * np.sin(seconds * np.array([1.1, 0.7, 0.9]) + np.array([0, 1, 2]))


def capture(
    performer: Performer, places: Places, at: dict[str, int], truth: Channels, stage: Stage, seed: int
) -> MarkerTake:
    """The markers of a performance. at: label -> landmark of the general head (or iris) that it sits on; places: of the skin."""
    rng, places = np.random.default_rng(seed), with_irises(performer.head, places)
    used, corners = np.unique(places.corners[list(at.values())], return_inverse=True)
    corners, weights = corners.reshape(-1, 3), places.weights[list(at.values())]
    # Only what lies under the markers is moved.
    performer = replace(
        performer, points=performer.points[used], shapes=performer.shapes[:, used], jaw=performer.jaw[used]
    )
    shapes = truth.values[:, [truth.names.index(s) for s in SHAPES]].astype(np.float64)
    angles = np.stack([truth.column(n) if n in truth.names else np.zeros(truth.frames) for n in HEAD_ANGLES], axis=1)
    turns = head_rotation(*angles.T.astype(np.float64))
    sway = head_sway(truth.frames)
    points = np.empty((truth.frames, len(at), 3))

    def seen(vertices: Array) -> Array:
        return np.asarray((vertices[corners] * weights[..., None]).sum(axis=1))

    alone = np.stack([seen(performer.pose(row) - performer.points) for row in np.eye(len(SHAPES))])
    rest = seen(performer.points)
    for frame, row in enumerate(shapes):
        face = rest + np.tensordot(row, alone, axes=1) if stage.additive else seen(performer.pose(row))
        points[frame] = rotate(turns[frame], face - NECK) + NECK + sway[frame]
    labels = list(at)
    collar = rng.uniform([-0.15, -0.32, -0.1], [0.15, -0.22, 0.05], (stage.spare, 3))
    points = np.concatenate(
        [points, np.broadcast_to(collar, (truth.frames, stage.spare, 3)) + sway[:, None] * 0.4], axis=1
    )
    labels += [f"spare{i}" for i in range(stage.spare)]
    points += rng.normal(0, stage.noise, points.shape)
    _swap(points, len(at), stage.swaps, rng)
    _lose(points, stage.gaps, rng)
    points = points + ORIGIN
    if stage.turned is not None:
        points = points @ stage.turned.T
    return MarkerTake(tuple(labels), points, RATE, Timecode(120 * 3600 * 10, RATE))


def _swap(points: Array, faces: int, swaps: int, rng: np.random.Generator) -> None:
    for _ in range(swaps):
        one = int(rng.integers(faces))
        away = np.linalg.norm(points[0, :faces] - points[0, one], axis=1)
        other = int(np.argsort(away)[1])
        first = int(rng.integers(len(points) - 30))
        span = slice(first, first + int(rng.integers(10, 30)))
        points[span, [one, other]] = points[span, [other, one]]


def _lose(points: Array, share: float, rng: np.random.Generator) -> None:
    frames, markers = points.shape[:2]
    lost = 0
    while lost < share * frames * markers:
        first, length = int(rng.integers(frames)), int(rng.integers(4, 40))
        points[first : first + length, rng.integers(markers)] = np.nan
        lost += length


@dataclass(frozen=True)
class Day:
    """takes: "rom" and "line"; neutral: frames of the range of motion; samples: shape -> frame of it."""

    takes: dict[str, MarkerTake]
    neutral: tuple[int, int]
    samples: dict[str, int]


def optical_day(seed: int, line: int, seconds: float = 6.0) -> Day:
    """A made-up performer's day on the stage: range of motion and a spoken line, 60 places and both irises, four markers beside the face, gaps,
    changed names and head motion. line: which of the bench's spoken lines.
    """
    performer = make_performer(general_head(), seed)
    rom, named = range_of_motion(seed)
    lines = json.loads((ASSETS / "bench/speech/lines.json").read_text())
    phones = [Phone(**p) for p in lines[line]["phones"]]
    acted = expressive(seconds, seed, phones)
    at = {f"M{n:02}": MARKS[place] for n, place in enumerate(usual_places())}
    per = float(RATE) / float(rom.rate)
    shots = {"rom": (rom, Stage(spare=4, gaps=0.005)), "line": (acted, Stage(spare=4, gaps=0.02, swaps=2))}
    takes = {
        part: capture(performer, landmark_places(), at, at_rate(truth, RATE), stage, seed + n)
        for n, (part, (truth, stage)) in enumerate(shots.items())
    }
    shown: Any = named
    first, last = shown["neutral"]
    samples = {s: round(f * per) for s, f in shown["samples"].items() if s != "tongueOut"}
    return Day(takes, (round(first * per), round(last * per)), samples)


def usual_places() -> tuple[str, ...]:
    """Sixty places of the chart and the irises: some of the outer cheek and jaw are left out, as on most stages."""
    left_out = ("cheek outer", "jaw upper", "nose root side", "smile fold", "forehead over brow", "beside the mouth")
    return tuple(place for place in MARKS if not place.startswith(left_out))
