"""The lens of footage in which a still face turns."""

import numpy as np

from dynaface.core.errors import InputError
from dynaface.core.shapes.standard import SHAPES
from dynaface.core.solve.card import CardMaker
from dynaface.core.track.camera import FOV
from dynaface.core.track.footage import Footage
from dynaface.core.track.lens import Lens, Track, from_several_sides, lens_of_tracks
from dynaface.core.track.neutral import OPEN
from dynaface.formats.head_file import general_head, landmark_places
from dynaface.pipelines.solve_footage import Found, views_of

LOOKED_AT = 300  # frames among which those from several sides are chosen
VIEWS, STRAIGHT = 32, 4  # pictures that are measured, and those of them that show the face from the front


def measure_lens(turn: Footage, found: Found) -> Lens:
    """The lens of a head turn, from its landmarks; raises InputError where the clip does not say."""
    jaw = SHAPES.index("jawOpen")
    quiet = [n for n, m in enumerate(found) if m is not None and m.scores[jaw] < OPEN]
    quiet = quiet[:: 1 + len(quiet) // LOOKED_AT]
    if len(quiet) < STRAIGHT:
        raise InputError("there are too few frames with a quiet face to measure the lens",
                         hint="Choose a clip in which a still face turns, or type the lens's angle in")  # fmt: skip
    marks = [m for m in (found[n] for n in quiet) if m is not None]
    points = np.array([m.points[:468] for m in marks], np.float64)
    sides = from_several_sides(points, VIEWS)
    # The first of them shows the face from the front.
    near = np.argsort(np.linalg.norm(points - points[sides[0]], axis=2).mean(axis=1))[:STRAIGHT]
    views = views_of(turn, found, {quiet[n] for n in (*sides, *near)})
    straight, around = ([views[quiet[n]] for n in part if quiet[n] in views] for part in (near, sorted(sides)))
    size = (turn.width, turn.height)
    maker = CardMaker(general_head(), landmark_places(), size, FOV, straight, around)
    tracks = [Track(s.seen.pixels, s.seen.likeness, s.pose) for s in maker.turned]
    return lens_of_tracks(size, FOV, maker.model().at, tracks)
