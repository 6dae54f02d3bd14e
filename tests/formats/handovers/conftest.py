"""A delivery of each character in motion."""

from dataclasses import replace
from fractions import Fraction

import numpy as np
import pytest

from dynaface.assets import ASSETS
from dynaface.core.cast.sheet import CastSheet
from dynaface.core.clock.timecode import Timecode, parse_timecode
from dynaface.core.handover.asked import asked
from dynaface.core.handover.delivery import Delivery, Figure, Marked, Voice
from dynaface.core.handover.edit_list import EditList, Media, Piece, laid_apart
from dynaface.core.handover.options import HandoverOptions
from dynaface.core.markers.take import MarkerTake
from dynaface.core.perform.perform import perform_take
from dynaface.formats.character_file import open_character
from tests.makers import channels, tone


def stage_markers():
    """Two markers on lines at 120 fps, one of which is lost for a while, with a count between two frames."""
    times = np.arange(120)[:, None] / 120
    points = np.stack([times * [1, 0, 0.5] + [0, 1.5, 0], times * [0, 0.2, 0] + [0.1, 1.4, 0]], axis=1)
    points[30:44, 1] = np.nan
    return MarkerTake(("brow left", "chin"), points, Fraction(120), Timecode(4_320_000, Fraction(120), 0.25))


MARKERS = stage_markers()


@pytest.fixture(scope="session")
def played():
    """name -> (character, glTF, performance of 40 frames that begins between two frames of its count)."""
    begins = replace(parse_timecode("10:00:00:03", Fraction(30_000, 1001)), fraction=0.25)
    face = replace(channels(frames=40), timecode=begins)
    out = {}
    for name in ("odile", "brindle", "kettle"):
        rig, _, raw = open_character((ASSETS / f"characters/{name}.glb").read_bytes(), f"{name}.glb")
        made = perform_take(face, rig, CastSheet())
        if rig.skeleton is not None:
            way = np.stack([np.linspace(0, 1.5, 40), np.zeros(40), np.linspace(0, 0.5, 40)], axis=1)
            made = replace(made, root=way.astype(np.float32), root_joint=made.root_joint or rig.skeleton.names[0])
        out[name] = (rig, raw, made)
    return out


@pytest.fixture
def delivered(played):
    """Makes a delivery: (names of characters, options) -> Delivery with a sound and an edit list."""

    def make(*names, **options):
        wanted = HandoverOptions(**options)
        figures = []
        for number, name in enumerate(names):
            rig, raw, whole = played[name]
            made = asked(whole, rig.skeleton, wanted)
            figures.append(Figure(name, made, raw, rig.skeleton, (float(number), 0.0, 0.5), 30.0 * number))
        first = figures[0].performance.channels
        seconds = first.frames / first.rate
        media = Media("mara.mp4", Fraction(30), Timecode(3_600_000, Fraction(60)))
        track = laid_apart("Mara", "picture", [Piece("4A", Fraction(0), seconds, Fraction(1, 2), media)])
        edit = EditList("shot", first.rate, seconds, tuple(track), (), first.timecode)
        since = first.start - played[names[0]][2].channels.start
        return Delivery(
            "shot", tuple(figures), wanted, Voice("mara.wav", 0.1, tone(2.0)), edit, marked=Marked(MARKERS, since)
        )

    return make
