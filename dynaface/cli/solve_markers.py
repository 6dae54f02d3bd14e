"""`dynaface solve` for optical markers."""

import argparse
import json
from collections.abc import Mapping
from dataclasses import replace
from pathlib import Path
from typing import Any

import numpy as np

from dynaface.cli.files import markers_of
from dynaface.core.errors import InputError
from dynaface.core.markers.layout import Layout, parse_layout
from dynaface.core.markers.mend import KINDS
from dynaface.core.markers.propose_layout import layout_doubts
from dynaface.core.markers.review import typical
from dynaface.core.shapes.spelling import match_name
from dynaface.core.shapes.standard import SHAPES
from dynaface.formats.entries import c3d
from dynaface.formats.entries.curve_table import write_table
from dynaface.formats.json_file import read_table
from dynaface.pipelines.solve_markers import basis_of, general_chart, solve_with


def _table(path: Path) -> dict[str, Any]:
    return read_table(path.read_bytes(), path.name)


def solve(options: argparse.Namespace) -> None:
    """Solves a take of markers."""
    if options.layout is None:
        raise InputError("markers need --layout", hint="dynaface layout proposes one")
    used: Layout = parse_layout(_table(options.layout))
    take = markers_of(options.clip)
    rom = markers_of(options.rom) if options.rom else take
    samples = _samples(options.samples) if options.samples else used.samples
    basis, neutral = basis_of(rom, used, samples)
    made, mended = solve_with(take, basis, used, rom, neutral)
    options.out.write_bytes(write_table(made.channels))
    if options.mended:
        options.mended.write_bytes(c3d.write(replace(mended.take, points=mended.filled)))
    seen = basis.seen()
    doubts = layout_doubts(rom, used, general_chart())
    report = {
        "doubts": doubts,
        "frames": made.channels.frames,
        "markers": len(basis.labels),
        "residualMillimetres": typical(made.residual),
        "lostFrames": int(np.isnan(made.channels.values[:, 0]).sum()),
        "repairs": [vars(r) for r in mended.repairs],
        "weaklySeen": [s for s in SHAPES if seen[s] == "weakly"],
        "notSeen": [s for s in SHAPES if seen[s] == "not seen"],
    }
    if options.json:
        print(json.dumps(report, indent=1))
        return
    print(
        f"wrote {options.out}: {report['frames']} frames from {report['markers']} markers, residual {report['residualMillimetres']} mm"
    )
    for doubt in doubts:
        print(f"doubtful: {doubt}")
    count = {kind: sum(r.kind == kind for r in mended.repairs) for kind in KINDS}
    print("put right: " + ", ".join(f"{n} {kind}{'s' if n != 1 else ''}" for kind, n in count.items()))
    for name, words in (("weaklySeen", "seen weakly"), ("notSeen", "not seen")):
        if report[name]:
            print(f"{words}: {', '.join(report[name])}")  # type: ignore[arg-type]


def _samples(path: Path) -> dict[str, int]:
    given = _table(path).get("samples", {})
    if not isinstance(given, Mapping):
        raise InputError(f"{path.name} has no samples", hint="docs/formats.md shows one")
    out = {}
    for name, frame in given.items():
        shape = match_name(str(name))
        if shape not in SHAPES or not isinstance(frame, int):
            raise InputError(f"the sample {name!r} is no shape with a frame", where=path.name)
        out[shape] = frame
    return out
