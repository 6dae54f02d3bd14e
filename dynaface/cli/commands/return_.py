"""`dynaface return`."""

import argparse
import json
from collections.abc import Mapping
from fractions import Fraction
from pathlib import Path
from typing import Any

from dynaface.cli.command import Command
from dynaface.core.clock.rates import format_rate
from dynaface.core.documents.model.layer import SpanEntry
from dynaface.core.errors import InputError
from dynaface.core.layers.layer import Layer
from dynaface.core.returns.brought import Brought
from dynaface.core.returns.compare import differences
from dynaface.core.returns.put_right import put_right
from dynaface.core.returns.returned_layer import Axes, Clock, beneath_of, described, returned_layer
from dynaface.formats.character_file import open_character
from dynaface.formats.returned import read_returned

USUAL = Fraction(30)


def arguments(one: argparse.ArgumentParser) -> None:
    """Adds its arguments."""
    one.add_argument("edited", type=Path, help="the file that comes back (.glb, .usdc, .usda, .bvh, .csv)")
    one.add_argument("--of", type=Path, required=True, help="the file that was handed over")
    one.add_argument("--figure", default="", help="the character, where files hold several")
    one.add_argument(
        "--character", type=Path, help="the character (.glb), for the axes of its joints: a .bvh has the world's"
    )
    one.add_argument(
        "--tolerance", type=float, default=0.0, help="the tolerance that it was handed over with (default 0)"
    )
    one.add_argument("--out", type=Path, required=True, help="the layer to write (JSON, see docs/formats.md)")  # fmt: skip


def run(options: argparse.Namespace) -> None:
    """Compares the files, writes the layer of what is different and prints what was put right."""
    base = _figure(read_returned(options.of.read_bytes(), options.of.name, USUAL), options.figure, options.of)
    edited = _figure(read_returned(options.edited.read_bytes(), options.edited.name, base.rate), options.figure, options.edited)  # fmt: skip
    righted = put_right(edited, base)
    found = differences(righted, options.tolerance)
    axes = Axes(base.rest)
    if options.character:
        rig, _, _ = open_character(options.character.read_bytes(), options.character.name)
        if rig.skeleton is None:
            raise InputError("the character has no skeleton", where=options.character.name)
        axes = Axes.of(rig.skeleton, righted.base.world)
    clock = Clock(righted.at, base.rate, 0.0, base.rate, base.frames)
    beneath = beneath_of(base.in_world() if righted.base.world else base, found, axes)
    layer = returned_layer(found, clock, beneath, axes)
    rows: dict[str, Any] = {}
    for one in found:
        rows.setdefault(one.of, {})[one.part] = described(one, clock)
    out = {
        "of": options.of.name, "rate": format_rate(base.rate), "frames": base.frames, "putRight": list(righted.said),
        "unknown": list(righted.unknown), "absent": list(righted.absent), "channels": rows, "layer": _plain(layer, options.edited.stem),
    }  # fmt: skip
    options.out.write_text(json.dumps(out, indent=1) + "\n")
    _say(righted.said, rows, options)


def _figure(found: Mapping[str, Brought], name: str, path: Path) -> Brought:
    if len(found) == 1 and not name:
        return next(iter(found.values()))
    if name not in found:
        raise InputError(f"{path.name} holds {', '.join(found) or 'no character'}", hint="Name one with --figure")
    return found[name]


def _plain(layer: Layer, name: str) -> dict[str, Any]:
    spans = {f"s{n}": SpanEntry.of(span).plain() for n, span in enumerate(layer.spans)}
    return {"name": name, "does": layer.kind, "spans": spans}


def _say(said: tuple[str, ...], rows: Mapping[str, Any], options: argparse.Namespace) -> None:
    for line in said:
        print(line)
    for name, parts in rows.items():
        for row in parts.values():
            runs = ", ".join(f"{a} to {b}" for a, b in row["runs"])
            print(f"{name} ({row['part']}): by {row['most']:g} {row['unit']}".rstrip() + f" at most, frames {runs}")
    print(f"wrote {options.out}: {len(rows)} differences" if rows else f"wrote {options.out}: nothing is different")


COMMAND = Command("return", "bring back what was edited elsewhere, as a layer of what is different", arguments, run)
