"""`dynaface solve` for a bare face."""

import argparse
import json
import time
from pathlib import Path

import numpy as np

from dynaface.cli.files import footage_of
from dynaface.cli.footage import card_from_rom
from dynaface.cli.stretches import stretches_of
from dynaface.core.errors import InputError
from dynaface.core.shapes.standard import SHAPES
from dynaface.core.solve.clip import SURE
from dynaface.core.solve.confidence import LIKE
from dynaface.core.solve.tacks import Tack, parse_tack
from dynaface.core.track.camera import FOV
from dynaface.formats.card_file import read_card
from dynaface.formats.entries.curve_table import write_table
from dynaface.formats.head_file import general_head
from dynaface.formats.json_file import read_json
from dynaface.pipelines.solve_footage import (
    card_of_clip,
    even_channels,
    finish_footage,
    for_size,
    neutral_of_clip,
    span_of,
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
    clip, tacks = footage_of(options.clip), _tacks(options.tacks)
    first, last = span_of(clip, options.first, options.last)
    neutral: list[int] = []
    used = None
    if options.card:
        used = read_card(options.card.read_bytes(), general_head())
    elif options.rom:
        used = card_from_rom(options)
    if used:
        for_size(used, clip)
    began = time.perf_counter()
    with stretches_of(options.clip, clip.frames) as stretches:
        # Any frame may be neutral, also where it is not solved.
        found = stretches.landmarks(first, last) if used else stretches.landmarks(0, clip.frames - 1)
        if used is None:
            neutral = neutral_of_clip(clip, found, options.neutral, options.fov or FOV)
            used = card_of_clip(clip, found, neutral, options.fov or FOV)
        made = finish_footage(clip, used, stretches.measured(used, found, first, last), first, tacks, options.moves)
    taken = time.perf_counter() - began
    options.out.write_bytes(write_table(even_channels(made, clip, first)))
    sure = made.confidence[:, : len(SHAPES)][:, used.solved]
    report = {
        "frames": made.channels.frames,
        "framesPerSecond": round(made.channels.frames / taken, 2),
        "confidence": round(float(sure.mean()), 3),
        "unsureFrames": int((sure.mean(axis=1) < SURE).sum()),
        "fits": round(made.fits, 3),
        "lostFrames": int(np.isnan(made.poses[:, 0]).sum()),
        "shapesSampled": int(used.sampled.sum()),
        "neutralFrames": neutral,
    }
    if options.json:
        print(json.dumps(report, indent=1))
        return
    print(f"wrote {options.out}: {report['frames']} frames at {report['framesPerSecond']} frames/s")
    if made.fits < LIKE:
        print(f"the face fits the {'card' if options.card or options.rom else 'neutral frames'} by {made.fits:.0%} only: "
              "another performer's, or too dark or blurred to tell")  # fmt: skip
    if neutral:
        print(f"taken for neutral: frames {', '.join(map(str, neutral))} (another: --neutral FRAME)")
    print(
        f"confidence {report['confidence']:.2f}, unsure in {report['unsureFrames']} frames, face lost in {report['lostFrames']}"
    )
