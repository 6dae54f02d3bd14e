"""Followed dots to weights: before a camera that is fixed to the head, or of a head that moves before it."""

from collections.abc import Mapping
from dataclasses import dataclass
from fractions import Fraction

import numpy as np

from dynaface.core import checks
from dynaface.core.curves.channels import Channels
from dynaface.core.dots.dot import MOVES
from dynaface.core.dots.flat import UNLIKE, Array, FlatHead, displacements
from dynaface.core.dots.track import DotTrack
from dynaface.core.dots.turning import posed, solve_turning
from dynaface.core.errors import InputError
from dynaface.core.markers.drive import Drive, driven
from dynaface.core.markers.solve import solve_displacements
from dynaface.core.shapes.standard import HEAD_ANGLES, HEAD_TRAVEL, SHAPES
from dynaface.core.solve.measured import row_of
from dynaface.core.track.camera import angles_of, on_head
from dynaface.core.track.travel import travel_of

NEITHER, HEAD = MOVES


@dataclass(frozen=True)
class DotSolve:
    """channels: weights and, where the head moves, its angles and travel; residual: (frames, dots) metres, NaN where a dot is not seen; poses:
    (frames, 7) turn and place of the head, NaN where the camera is fixed to it.
    """

    channels: Channels
    residual: Array
    poses: Array


def solve_dots(head: FlatHead, track: DotTrack, rate: Fraction, drives: Mapping[str, Drive] | None = None, moves: str = NEITHER
               ) -> DotSolve:  # fmt: skip
    """The weights of a clip's dots, with channels that two dots drive; rate: frames a second; moves: one of MOVES.

    Raises InputError."""
    checks.one_of("moves", moves, MOVES)
    index = [track.labels.index(label) for label in head.basis.labels]
    pixels = np.where((track.confidence[:, index] > 0)[..., None], track.points[:, index], np.nan)
    if not np.isfinite(pixels).any():
        raise InputError("no dot is seen in any frame", hint="Are these the dots of this day?")
    names, poses, angles = SHAPES, np.full((len(pixels), 7), np.nan), np.empty((len(pixels), 0))
    if moves == HEAD:
        weights, residual, poses = solve_turning(head, pixels, float(rate))
        names = SHAPES + HEAD_ANGLES + HEAD_TRAVEL
        travel = travel_of(poses[:, :4], poses[:, 4:], head.pose.turn)
        angles = np.column_stack([angles_of(poses, head.pose.turn), travel])
    else:
        able = (head.basis.own > 0).astype(np.float64)
        went = displacements(head, pixels)
        weights, residual = solve_displacements(went, head.basis.shapes, float(rate), able, UNLIKE)
    shown = np.column_stack([np.where(head.basis.reported, weights, 0.0), angles])
    channels = Channels(names, shown.astype(np.float32), rate, 0.0, None)
    if drives:
        stood = poses if moves == HEAD else np.tile(row_of(head.pose), (len(pixels), 1))
        points = on_head(head.camera, stood, pixels, posed(head, weights))
        channels = driven(channels, drives, head.basis.labels, points, head.points)
    return DotSolve(channels, residual, poses)
