"""The commands that tidy: `dynaface tidy`, `snags`, `reduce`."""

import argparse
import json
from pathlib import Path
from typing import Any

from dynaface.core import checks
from dynaface.core.curves.channels import Recording
from dynaface.core.curves.reduce import reduce as reduced
from dynaface.core.errors import InputError
from dynaface.core.shapes.standard import reach_of
from dynaface.core.snags.find import find_snags
from dynaface.core.snags.propose import propose
from dynaface.core.snags.snag import Evidence
from dynaface.core.sound.sound import Sound
from dynaface.core.tidy.stack import evaluate, parse_stack
from dynaface.formats.entries import wav
from dynaface.formats.entries.curve_table import read_table, table_to_channels, write_table
from dynaface.formats.keys_file import write_keys


def _recording(path: Path) -> Recording:
    try:
        return read_table(path.read_bytes())[0]
    except InputError as error:
        raise type(error)(f"{path.name}: {error.message}", where=error.where, hint=error.hint) from None


def _voice(options: argparse.Namespace) -> Sound | None:
    return wav.read(options.sound.read_bytes()) if options.sound else None


def tidy(options: argparse.Namespace) -> None:
    """Runs a stack over a table, or proposes one for it."""
    if options.propose == bool(options.stack):
        raise InputError("nothing says what to do", hint="Give either --stack stack.json or --propose")
    if options.propose:
        made = propose(_recording(options.table), _voice(options), options.sound_offset)
        plain: dict[str, Any] = {"dynafaceStack": 1, "steps": list(made.steps)}
        for step, why in zip(made.steps, made.reasons, strict=True):
            print(f"{step['step']}: {why}")
        if not options.out_stack and not options.out:
            raise InputError("the proposal goes nowhere", hint="Give --out-stack stack.json, --out clean.csv or both")
        if options.out_stack:
            options.out_stack.write_text(json.dumps(plain, indent=1) + "\n")
            print(f"wrote {options.out_stack}: {len(made.steps)} steps")
        if options.out:
            _run(options, evaluate(_recording(options.table), parse_stack(plain)), len(made.steps))
        return
    if not options.out:
        raise InputError("the tidied table goes nowhere", hint="Give --out clean.csv")
    try:
        stack = parse_stack(json.loads(options.stack.read_text()))
    except (json.JSONDecodeError, UnicodeDecodeError) as error:
        raise InputError(f"{options.stack.name} is no JSON: {error}") from None
    # Without a retiming step the table is taken as even, as our own tables are.
    retimed = any(p.step.kind == "retiming" for p in stack)
    given = _recording(options.table) if retimed else table_to_channels(options.table.read_bytes(), options.table.name)
    _run(options, evaluate(given, stack), sum(p.on for p in stack))


def _run(options: argparse.Namespace, channels: Any, steps: int) -> None:
    options.out.write_bytes(write_table(channels))
    print(f"wrote {options.out}: {channels.frames} frames through {steps} steps")


def snags(options: argparse.Namespace) -> None:
    """Lists the snags of a table."""
    channels = evaluate(_recording(options.table), ())
    found = find_snags(Evidence(channels, _voice(options), options.sound_offset))
    if options.json:
        print(json.dumps([s.describe() for s in found], indent=1))
        return
    for s in found:
        limit = f"{s.measured:.3g} {s.unit}".strip()
        print(
            f"{s.severity:4.2f}  frames {s.first}-{s.last}  {s.kind}: {s.words} ({limit}, limit {s.limit:.3g}; {', '.join(s.channels[:3])})"
        )
    print(
        f"{len(found)} snags in {channels.seconds:.1f} s"
        + ("" if options.sound else "; without sound some kinds are not looked for")
    )


def reduce(options: argparse.Namespace) -> None:
    """Writes a table's channels as keys and says how far they are off."""
    tolerance = checks.within("tolerance", options.tolerance, 0.0005, 0.2)
    channels = table_to_channels(options.table.read_bytes(), options.table.name)
    made = {n: reduced(channels.column(n), float(channels.rate), tolerance * reach_of(n)) for n in channels.names}
    options.out.write_bytes(write_keys(channels, {n: r.keys for n, r in made.items()}))
    report = {n: {"keys": len(r.keys), "worst": round(r.worst, 6), "mean": round(r.mean, 6)} for n, r in made.items()}
    if options.json:
        print(json.dumps(report, indent=1))
        return
    for name, row in report.items():
        print(f"{name}: {row['keys']} keys, worst {row['worst']:.5f}, mean {row['mean']:.5f}")
    total = sum(len(r.keys) for r in made.values())
    print(f"wrote {options.out}: {total} keys for {channels.frames * len(channels.names)} values")
