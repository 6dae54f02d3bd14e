"""`dynaface dots`."""

import argparse
import json
from pathlib import Path

from dynaface.cli.command import Command
from dynaface.cli.files import read_kind
from dynaface.core import checks
from dynaface.core.dots.dot import DotLayout, parse_dots, picked_dot
from dynaface.core.dots.solve import HEAD, NEITHER
from dynaface.core.errors import InputError
from dynaface.core.markers.chart import MARKS


def arguments(one: argparse.ArgumentParser) -> None:
    """Adds its arguments."""
    one.add_argument("clip", type=Path, help="a clip with dots on the face")
    one.add_argument(
        "--pick", action="append", required=True, metavar="PLACE=X,Y", help='a dot, as "chin pad=320,410" (repeat)'
    )
    one.add_argument("--frame", type=int, default=0, help="the picture in which they are picked (default 0)")
    one.add_argument(
        "--neutral", type=int, nargs=2, help="first and last frame of a still face (default: that picture)"
    )
    one.add_argument(
        "--fov", type=float, default=60.0, help="the camera's field of view from top to bottom (default 60)"
    )
    one.add_argument("--tolerance", type=float, default=0.09, help="how far a colour may be off (default 0.09)")
    one.add_argument("--mirror", action="store_true", help="look for the partner on the other side of each pick")
    one.add_argument("--head-moves", action="store_true", help="the camera stands; else it is fixed to the head")
    one.add_argument("--out", type=Path, required=True, help="the dots to write (JSON)")


def _spot(text: str) -> tuple[str, float, float]:
    place, _, at = text.rpartition("=")
    parts = at.split(",")
    if not place or len(parts) != 2:
        raise InputError(f"{text!r} picks no dot", hint='Write it as "mouth corner left=312,288"')
    checks.one_of("place", place, tuple(MARKS))
    x, y = (checks.within(f"the pick of {place}", v, 0, 100_000) for v in parts)  # type: ignore[arg-type]
    return place, x, y


def run(options: argparse.Namespace) -> None:
    """Picks dots in one picture of a clip."""
    clip = read_kind("footage", options.clip)
    if not 0 <= options.frame < clip.frames:
        raise InputError(f"frame {options.frame} is not in a clip of {clip.frames} frames")
    picture = next(clip.pictures(options.frame))
    first, last = options.neutral or (options.frame, options.frame)
    moves = HEAD if options.head_moves else NEITHER
    layout = DotLayout((clip.width, clip.height), (), options.fov, options.tolerance, (first, last), moves=moves)
    picks = [_spot(text) for text in options.pick]
    if len({place for place, _, _ in picks}) != len(picks):
        raise InputError("two dots sit on one place", hint="Leave one of them out")
    for place, x, y in picks:
        layout = picked_dot(picture, layout, x, y, place, options.mirror)
    layout = parse_dots(layout.describe())
    options.out.write_text(json.dumps(layout.describe(), indent=1) + "\n")
    print(f"wrote {options.out}: {len(layout.dots)} dots")


COMMAND = Command("dots", "pick colour dots in a picture of a clip, once for the day", arguments, run)
