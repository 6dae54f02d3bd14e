"""`dynaface tidy`."""

import argparse
import json
from pathlib import Path
from typing import Any

from dynaface.cli.command import Command
from dynaface.cli.table import recording_of
from dynaface.cli.voice import add_voice, voice_of
from dynaface.core.errors import InputError
from dynaface.core.snags.propose import propose
from dynaface.core.tidy.stack import evaluate, parse_stack
from dynaface.formats.entries.curve_table import table_to_channels, write_table


def arguments(one: argparse.ArgumentParser) -> None:
    """Adds its arguments."""
    one.add_argument("table", type=Path, help="a curve table")
    one.add_argument("--stack", type=Path, help="the stack to run (JSON, see docs/formats.md)")
    one.add_argument("--propose", action="store_true", help="measure the take and propose a stack")
    one.add_argument("--out-stack", type=Path, help="the proposed stack to write")
    one.add_argument("--out", type=Path, help="the tidied curve table to write")
    add_voice(one)


def run(options: argparse.Namespace) -> None:
    """Runs a stack over a table, or proposes one for it."""
    if options.propose == bool(options.stack):
        raise InputError("nothing says what to do", hint="Give either --stack stack.json or --propose")
    if options.propose:
        if not options.out_stack and not options.out:
            raise InputError("the proposal goes nowhere", hint="Give --out-stack stack.json, --out clean.csv or both")
        made = propose(recording_of(options.table), voice_of(options), options.sound_offset)
        plain: dict[str, Any] = {"dynafaceStack": 1, "steps": list(made.steps)}
        for step, why in zip(made.steps, made.reasons, strict=True):
            print(f"{step['step']}: {why}")
        if options.out_stack:
            options.out_stack.write_text(json.dumps(plain, indent=1) + "\n")
            print(f"wrote {options.out_stack}: {len(made.steps)} steps")
        if options.out:
            _write(options, evaluate(recording_of(options.table), parse_stack(plain)), len(made.steps))
        return
    if not options.out:
        raise InputError("the tidied table goes nowhere", hint="Give --out clean.csv")
    try:
        stack = parse_stack(json.loads(options.stack.read_text()))
    except (json.JSONDecodeError, UnicodeDecodeError) as error:
        raise InputError(f"{options.stack.name} is no JSON: {error}") from None
    # Without a retiming step the table is taken as even, as our own tables are.
    retimed = any(p.step.kind == "retiming" for p in stack)
    given = (
        recording_of(options.table) if retimed else table_to_channels(options.table.read_bytes(), options.table.name)
    )
    _write(options, evaluate(given, stack), sum(p.on for p in stack))


def _write(options: argparse.Namespace, channels: Any, steps: int) -> None:
    options.out.write_bytes(write_table(channels))
    print(f"wrote {options.out}: {channels.frames} frames through {steps} steps")


COMMAND = Command("tidy", "run a tidy stack over a curve table, or propose one for it", arguments, run)
