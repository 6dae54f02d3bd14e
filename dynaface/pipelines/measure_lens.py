"""The lens of footage in which a still face turns."""

from collections.abc import Sequence

import numpy as np

from dynaface.core.errors import InputError
from dynaface.core.shapes.standard import SHAPES
from dynaface.core.solve.card import CardMaker
from dynaface.core.track.camera import FOV
from dynaface.core.track.footage import Footage
from dynaface.core.track.landmarks import Landmarks
from dynaface.core.track.lens import Lens, Track, from_several_sides, lens_of_tracks
from dynaface.formats.head_file import general_head, landmark_places
from dynaface.pipelines.solve_footage import views_of

LOOKED_AT = 300  # frames among which those from several sides are chosen
VIEWS, STRAIGHT = 32, 4  # pictures that are measured, and those of them that show the face from the front
OPEN = 0.3  # score of an open jaw: such a face is not still


def measure_lens(turn: Footage, found: Sequence[Landmarks | None], fov: float = FOV) -> Lens:
    """The lens of a head turn, from its landmarks and a guess in degrees; raises InputError where the clip does not say."""
    jaw = SHAPES.index("jawOpen")
    quiet = [n for n, m in enumerate(found) if m is not None and m.scores[jaw] < OPEN]
    quiet = quiet[:: 1 + len(quiet) // LOOKED_AT]
    if len(quiet) < STRAIGHT:
        raise InputError("there are too few frames with a quiet face to measure the lens",
                         hint="Choose a clip in which a still face turns, or type the lens's angle in")  # fmt: skip
    marks = [m for m in (found[n] for n in quiet) if m is not None]
    points = np.array([m.points[:468] for m in marks], np.float64)
    sides = from_several_sides(points, VIEWS)
    front = from_several_sides(points, 1)[0]
    near = np.argsort(np.linalg.norm(points - points[front], axis=2).mean(axis=1))[:STRAIGHT]
    views = views_of(turn, found, {quiet[n] for n in (*sides, *near)})
    maker = CardMaker(general_head(), landmark_places(), (turn.width, turn.height), fov,
                      [views[quiet[n]] for n in near if quiet[n] in views], [views[quiet[n]] for n in sorted(sides) if quiet[n] in views])  # fmt: skip
    tracks = [Track(s.seen.pixels, s.seen.likeness, s.pose) for s in maker.turned]
    return lens_of_tracks((turn.width, turn.height), fov, maker.model().at, tracks)
