"""`dynaface dots`, and `dynaface solve` for colour dots."""

import argparse
import json

from dynaface.cli_files import read_kind
from dynaface.core import checks
from dynaface.core.dots.dot import DotLayout, parse_dots, picked_dot
from dynaface.core.dots.solve import HEAD, NEITHER
from dynaface.core.errors import InputError
from dynaface.core.markers.chart import MARKS
from dynaface.core.markers.review import typical
from dynaface.formats.entries.curve_table import write_table
from dynaface.formats.json_file import read_table
from dynaface.services.solve_dots import solve_clip


def _spot(text: str) -> tuple[str, float, float]:
    place, _, at = text.rpartition("=")
    parts = at.split(",")
    if not place or len(parts) != 2:
        raise InputError(f"{text!r} picks no dot", hint='Write it as "mouth corner left=312,288"')
    checks.one_of("place", place, tuple(MARKS))
    x, y = (checks.within(f"the pick of {place}", v, 0, 100_000) for v in parts)  # type: ignore[arg-type]
    return place, x, y


def dots(options: argparse.Namespace) -> None:
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


def solve(options: argparse.Namespace) -> None:
    """Solves a clip's dots."""
    layout = parse_dots(read_table(options.layout.read_bytes(), options.layout.name))
    if options.samples:
        samples = dict(read_table(options.samples.read_bytes(), options.samples.name).get("samples", {}))
        layout = parse_dots({**layout.describe(), "samples": samples})
    made, track, head = solve_clip(
        read_kind("footage", options.clip),
        layout,
        read_kind("footage", options.rom) if options.rom else None,
    )
    options.out.write_bytes(write_table(made.channels))
    by_word = head.basis.by_word()
    told = {
        "frames": made.channels.frames,
        "dots": len(head.basis.labels),
        "residualMillimetres": typical(made.residual),
        "confidence": round(float(track.confidence.mean()), 4),
        "lostSamples": round(float((track.confidence == 0).mean()), 4),
        "swaps": [list(s) for s in track.swaps],
        "seen": by_word,
    }
    if options.json:
        print(json.dumps(told, indent=1))
        return
    print(f"wrote {options.out}: {told['frames']} frames from {told['dots']} dots, residual {told['residualMillimetres']} mm, "
          f"confidence {told['confidence']}, {len(track.swaps)} swaps put right")  # fmt: skip
    for word in ("well", "weakly"):
        print(f"seen {word}: {', '.join(by_word[word]) or 'none'}")
