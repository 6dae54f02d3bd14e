"""Colour dots to curves, without a database: the command line, benches and jobs use it."""

from collections.abc import Mapping, Sequence
from fractions import Fraction

from dynaface.core.dots.dot import DotLayout
from dynaface.core.dots.flat import FlatHead, displacements, lay_head, learn_samples
from dynaface.core.dots.hand import Correction, corrected
from dynaface.core.dots.solve import HEAD, DotSolve, solve_dots
from dynaface.core.dots.track import DotTrack, follow_dots
from dynaface.core.dots.turning import turned_back
from dynaface.core.errors import InputError
from dynaface.core.markers.layout import mean_points
from dynaface.core.track.camera import camera_of
from dynaface.core.track.footage import Footage
from dynaface.pipelines.solve_markers import general_chart

ABOUT = 1  # frames to either side of a sample that are averaged


def head_of_dots(
    track: DotTrack, layout: DotLayout, rate: Fraction, samples: Mapping[str, int] | None = None
) -> FlatHead:
    """The performer's head behind the dots of the clip that the layout's neutral frames, and the samples, are of; rate: its own."""
    first, last = layout.neutral
    frames = len(track.points)
    if last >= frames:
        raise InputError(f"the neutral frames {first} to {last} are not in a clip of {frames} frames")
    neutral = mean_points(track.points, first, last)
    places = {d.label: d.place for d in layout.dots if d.place}
    head = lay_head(track.labels, places, neutral, general_chart(), camera_of(*layout.size, layout.fov))
    if not samples:
        return head
    index = [track.labels.index(label) for label in head.basis.labels]
    pixels = track.points[:, index]
    went = turned_back(head, pixels, float(rate)) if layout.moves == HEAD else displacements(head, pixels)
    moved = {}
    for shape, frame in samples.items():
        if frame >= frames:
            raise InputError(f"the sample of {shape} is frame {frame} of a clip of {frames} frames")
        moved[shape] = mean_points(went, frame - ABOUT, frame + ABOUT)
    return learn_samples(head, moved)


def track_clip(clip: Footage, layout: DotLayout, corrections: Sequence[Correction] = ()) -> DotTrack:
    """The layout's dots in a clip, with what was put right by hand."""
    return corrected(follow_dots(clip.pictures(), layout), layout, corrections, clip)


def solve_clip(clip: Footage, layout: DotLayout, rom: Footage | None = None) -> tuple[DotSolve, DotTrack, FlatHead]:
    """The curves of a clip's dots; rom: the clip that the layout was made from, where it is another one."""
    track = track_clip(clip, layout)
    made_from = track_clip(rom, layout) if rom is not None else track
    head = head_of_dots(made_from, layout, (rom or clip).rate, layout.samples)
    return solve_dots(head, track, clip.rate, layout.drives, layout.moves), track, head
