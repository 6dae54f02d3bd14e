"""`dynaface dots`, and `dynaface solve` for colour dots."""

import argparse
import json
from dataclasses import replace
from pathlib import Path

import numpy as np

from dynaface.core import checks
from dynaface.core.dots.dot import Dot, DotLayout, mirrored_dot, parse_dots, pick_dot
from dynaface.core.errors import InputError
from dynaface.core.markers.chart import MARKS, mirrored_place
from dynaface.core.shapes.standard import SHAPES
from dynaface.core.track.footage import Footage
from dynaface.formats.catalogue import format_of
from dynaface.formats.entries import video
from dynaface.formats.entries.curve_table import write_table
from dynaface.formats.json_file import read_table
from dynaface.services.solve_dots import solve_clip


def _clip(path: Path) -> Footage:
    data = path.read_bytes()
    fmt = format_of(data, path.name)
    if fmt.kind != "footage":
        raise InputError(f"{path.name} is a {fmt.label}, not footage")
    return video.read(data)


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
    clip = _clip(options.clip)
    if not 0 <= options.frame < clip.frames:
        raise InputError(f"frame {options.frame} is not in a clip of {clip.frames} frames")
    picture = next(clip.pictures(options.frame))
    first, last = options.neutral or (options.frame, options.frame)
    layout = DotLayout((clip.width, clip.height), (), options.fov, options.tolerance, (first, last))
    found: list[Dot] = []
    for place, x, y in map(_spot, options.pick):
        dot = replace(pick_dot(picture, x, y, f"dot {len(found) + 1}", options.tolerance), place=place)
        found.append(dot)
        layout = replace(layout, dots=tuple(found))
        other = mirrored_place(place)
        if options.mirror and other != place and other not in [d.place for d in found]:
            partner = mirrored_dot(picture, layout, dot, f"dot {len(found) + 1}")
            if partner is not None:
                found.append(replace(partner, place=other))
                layout = replace(layout, dots=tuple(found))
    layout = parse_dots(layout.describe())
    options.out.write_text(json.dumps(layout.describe(), indent=1) + "\n")
    print(f"wrote {options.out}: {len(layout.dots)} dots")


def solve(options: argparse.Namespace) -> None:
    """Solves a clip's dots."""
    layout = parse_dots(read_table(options.layout.read_bytes(), options.layout.name))
    if options.samples:
        samples = dict(read_table(options.samples.read_bytes(), options.samples.name).get("samples", {}))
        layout = parse_dots({**layout.describe(), "samples": samples})
    made, track, head = solve_clip(_clip(options.clip), layout, _clip(options.rom) if options.rom else None)
    options.out.write_bytes(write_table(made.channels))
    seen = head.basis.seen()
    told = {
        "frames": made.channels.frames,
        "dots": len(head.basis.labels),
        "residualMillimetres": round(float(np.nanmedian(made.residual)) * 1000, 3),
        "confidence": round(float(track.confidence.mean()), 4),
        "lostSamples": round(float((track.confidence == 0).mean()), 4),
        "swaps": [list(s) for s in track.swaps],
        "seen": {word: [s for s in SHAPES if seen[s] == word] for word in ("well", "weakly", "not seen")},
    }
    if options.json:
        print(json.dumps(told, indent=1))
        return
    print(f"wrote {options.out}: {told['frames']} frames from {told['dots']} dots, residual {told['residualMillimetres']} mm, "
          f"confidence {told['confidence']}, {len(track.swaps)} swaps put right")  # fmt: skip
    for word in ("well", "weakly"):
        print(f"seen {word}: {', '.join(told['seen'][word]) or 'none'}")  # type: ignore[index]
