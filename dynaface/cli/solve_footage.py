"""`dynaface solve` for a bare face."""

import argparse
import json
import time
from pathlib import Path

import numpy as np

from dynaface.cli.files import footage_of
from dynaface.cli.footage import card_from_rom
from dynaface.core.errors import InputError
from dynaface.core.shapes.standard import SHAPES
from dynaface.core.solve.clip import SURE
from dynaface.core.solve.tacks import Tack, parse_tack
from dynaface.core.track.camera import FOV
from dynaface.formats.card_file import read_card
from dynaface.formats.entries.curve_table import write_table
from dynaface.formats.head_file import general_head
from dynaface.formats.json_file import read_json
from dynaface.pipelines.solve_footage import (
    card_of_clip,
    even_channels,
    find_landmarks,
    neutral_of_clip,
    solve_footage,
)


def _tacks(path: Path | None) -> list[Tack]:
    if path is None:
        return []
    given = read_json(path.read_bytes(), path.name)
    if not isinstance(given, list):
        raise InputError(f"{path.name} must be a list of tacks", hint="docs/formats.md shows one")
    return [parse_tack(p) for p in given]


def solve(options: argparse.Namespace) -> None:
    """Solves a clip."""
    if options.rom and not options.samples:
        raise InputError("a range of motion needs --samples", hint="They say which frame shows which expression")
    if options.neutral is not None and (options.card or options.rom):
        raise InputError("--neutral is for a clip without a card", hint="A card has a neutral face of its own")
    clip, found, tacks = footage_of(options.clip), None, _tacks(options.tacks)
    neutral: list[int] = []
    if options.card:
        used = read_card(options.card.read_bytes(), general_head())
    elif options.rom:
        used = card_from_rom(options)
    else:
        found = find_landmarks(clip)
        neutral = neutral_of_clip(clip, found, options.neutral, options.fov or FOV)
        used = card_of_clip(clip, found, neutral, options.fov or FOV)
    began = time.perf_counter()
    made = solve_footage(clip, used, options.first, options.last, found=found, tacks=tacks, moves=options.moves)
    taken = time.perf_counter() - began
    options.out.write_bytes(write_table(even_channels(made, clip, options.first)))
    sure = made.confidence[:, : len(SHAPES)][:, used.solved]
    report = {
        "frames": made.channels.frames,
        "framesPerSecond": round(made.channels.frames / taken, 2),
        "confidence": round(float(sure.mean()), 3),
        "unsureFrames": int((sure.mean(axis=1) < SURE).sum()),
        "lostFrames": int(np.isnan(made.poses[:, 0]).sum()),
        "shapesSampled": int(used.sampled.sum()),
        "neutralFrames": neutral,
    }
    if options.json:
        print(json.dumps(report, indent=1))
        return
    print(f"wrote {options.out}: {report['frames']} frames at {report['framesPerSecond']} frames/s")
    if neutral:
        print(f"taken for neutral: frames {', '.join(map(str, neutral))} (another: --neutral FRAME)")
    print(
        f"confidence {report['confidence']:.2f}, unsure in {report['unsureFrames']} frames, face lost in {report['lostFrames']}"
    )
