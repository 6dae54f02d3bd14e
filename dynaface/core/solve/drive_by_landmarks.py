"""Channels that are the distance of two places of the face, as a clip's landmarks show them."""

from collections.abc import Mapping
from typing import Any

import numpy as np
from numpy.typing import NDArray

from dynaface.core import checks
from dynaface.core.curves.channels import Channels
from dynaface.core.errors import InputError
from dynaface.core.markers.chart import MARKS, with_irises
from dynaface.core.markers.drive import Drive, driven, parse_drives
from dynaface.core.solve.card import PerformerCard
from dynaface.core.track.camera import on_head
from dynaface.core.track.head import Array, Head
from dynaface.core.track.likeness import Places

# The landmark library's own numbers of the irises; the skin's are those of the chart.
SEEN = MARKS | {"iris right": 468, "iris left": 473}


def parse_place_drives(data: Any) -> dict[str, Drive]:
    """channel -> drive between places of the face chart, from plain data; raises InputError."""
    drives = parse_drives(data)
    for channel, drive in drives.items():
        for place in (drive.one, drive.two):
            checks.one_of(f"place that drives {channel}", place, tuple(MARKS))
    return drives


def places_on_head(card: PerformerCard, head: Head, places: Places, pixels: NDArray[np.floating], poses: Array, weights: Array
                   ) -> tuple[Array, Array]:  # fmt: skip
    """((frames, places, 3), (places, 3) in the neutral face) metres of the chart's places in the head's own frame; pixels: (frames, 478,
    2), poses: (frames, 7) and weights: (frames, 52) as in a solve, which say how far from the camera each place is.
    Raises InputError.
    """
    if not len(pixels) == len(poses) == len(weights):
        raise InputError(
            f"there are landmarks of {len(pixels)} frames, poses of {len(poses)}, weights of {len(weights)}"
        )
    marks, at = with_irises(head, places), list(MARKS.values())
    still = marks.on(card.points)[at]
    shapes = np.stack([marks.on(s)[at] for s in card.shapes])
    seen = pixels[:, [SEEN[name] for name in MARKS]].astype(np.float64)
    points = still + np.einsum("fi,imk->fmk", weights, shapes)
    return on_head(card.camera, poses, seen, points), still


def driven_by_landmarks(channels: Channels, drives: Mapping[str, Drive], points: Array, still: Array) -> Channels:
    """A solve's channels with those that places of the face drive."""
    return driven(channels, drives, tuple(MARKS), points, still)
