"""`dynaface solve` for colour dots."""

import argparse
import json

from dynaface.cli.files import read_kind
from dynaface.core.dots.dot import parse_dots
from dynaface.core.markers.review import typical
from dynaface.formats.entries.curve_table import write_table
from dynaface.formats.json_file import read_table
from dynaface.pipelines.solve_dots import solve_clip


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
    report = {
        "frames": made.channels.frames,
        "dots": len(head.basis.labels),
        "residualMillimetres": typical(made.residual),
        "confidence": round(float(track.confidence.mean()), 4),
        "lostSamples": round(float((track.confidence == 0).mean()), 4),
        "swaps": [list(s) for s in track.swaps],
        "seen": by_word,
    }
    if options.json:
        print(json.dumps(report, indent=1))
        return
    print(f"wrote {options.out}: {report['frames']} frames from {report['dots']} dots, residual {report['residualMillimetres']} mm, "
          f"confidence {report['confidence']}, {len(track.swaps)} swaps put right")  # fmt: skip
    for word in ("well", "weakly"):
        print(f"seen {word}: {', '.join(by_word[word]) or 'none'}")
