"""`dynaface card`, `solve` and `simulate`: footage to curves, and footage with known curves, on files."""

import argparse
import json
import time
from dataclasses import replace
from pathlib import Path

import numpy as np

from dynaface.cli_files import read_kind
from dynaface.core import checks
from dynaface.core.dots.dot import DotLayout, pick_dot
from dynaface.core.errors import InputError
from dynaface.core.shapes.standard import SHAPES
from dynaface.core.solve.card import PerformerCard
from dynaface.core.solve.clip import SURE
from dynaface.core.solve.pins import Pin, parse_pin
from dynaface.core.track.camera import FOV
from dynaface.core.track.footage import Footage
from dynaface.formats.card_file import read_card, write_card
from dynaface.formats.entries import video
from dynaface.formats.entries.curve_table import write_table
from dynaface.formats.head_file import general_head, landmark_places
from dynaface.formats.json_file import read_json
from dynaface.services.solve_footage import (
    card_of_clip,
    even_channels,
    find_landmarks,
    make_card,
    parse_samples,
    solve_footage,
)
from dynaface.sims.footage.clip import random_setting, render
from dynaface.sims.footage.dots import PLACES, colours, film, head_mount
from dynaface.sims.footage.performer import make_performer
from dynaface.sims.footage.script import expressive, head_turn, range_of_motion


def _footage(path: Path) -> Footage:
    clip: Footage = read_kind("footage", path)
    return clip


def _made(options: argparse.Namespace) -> PerformerCard:
    samples = parse_samples(read_json(options.samples.read_bytes(), options.samples.name))
    turn = _footage(options.turn) if options.turn else None
    return make_card(_footage(options.rom), samples, turn, options.fov or FOV)


def card(options: argparse.Namespace) -> None:
    """Makes a card."""
    made = _made(options)
    options.out.write_bytes(write_card(made))
    lacking = [s for s, has in zip(SHAPES, made.sampled, strict=True) if not has]
    print(f"wrote {options.out}: {int(made.sampled.sum())} shapes sampled")
    if lacking:
        print(f"from the general face: {', '.join(lacking)}")


def _pins(path: Path | None) -> list[Pin]:
    if path is None:
        return []
    given = read_json(path.read_bytes(), path.name)
    if not isinstance(given, list):
        raise InputError(f"{path.name} must be a list of pins", hint="docs/formats.md shows one")
    return [parse_pin(p) for p in given]


def solve(options: argparse.Namespace) -> None:
    """Solves a clip."""
    if options.rom and not options.samples:
        raise InputError("a range of motion needs --samples", hint="They say which frame shows which expression")
    clip, found, pins = _footage(options.clip), None, _pins(options.pins)
    if options.card:
        used = read_card(options.card.read_bytes(), general_head())
    elif options.rom:
        used = _made(options)
    else:
        found = find_landmarks(clip)
        used = card_of_clip(clip, found, options.fov or FOV)
    began = time.perf_counter()
    made = solve_footage(clip, used, options.first, options.last, found=found, pins=pins, moves=options.moves)
    taken = time.perf_counter() - began
    options.out.write_bytes(write_table(even_channels(made, clip, options.first)))
    sure = made.confidence[:, : len(SHAPES)][:, used.solved]
    told = {
        "frames": made.channels.frames,
        "framesPerSecond": round(made.channels.frames / taken, 2),
        "confidence": round(float(sure.mean()), 3),
        "unsureFrames": int((sure.mean(axis=1) < SURE).sum()),
        "lostFrames": int(np.isnan(made.poses[:, 0]).sum()),
        "shapesSampled": int(used.sampled.sum()),
    }
    if options.json:
        print(json.dumps(told, indent=1))
        return
    print(f"wrote {options.out}: {told['frames']} frames at {told['framesPerSecond']} frames/s")
    print(
        f"confidence {told['confidence']:.2f}, unsure in {told['unsureFrames']} frames, face lost in {told['lostFrames']}"
    )


def simulate(options: argparse.Namespace) -> None:
    """Renders a clip with its truth."""
    seed = options.seed
    named: dict[str, object] = {}
    if options.what == "rom":
        performed, named = range_of_motion(seed)
    elif options.what == "turn":
        performed = head_turn(seed)
    else:
        performed = expressive(checks.within("seconds", options.seconds, 0.1, 600), seed)
    middle = performed.frames // 2
    hands = ((max(middle - 22, 0), middle + 22),) if options.hand else ()
    setting = replace(random_setting(seed), hands=hands, shake=options.shake, mounted=options.mounted)
    performer = make_performer(general_head(), seed)
    if options.dots:
        setting = head_mount(seed)
        made = film(performer, landmark_places(), performed, setting, seed, colours())
        pictures = made.pictures
    else:
        pictures = render(performer, performed, setting, seed)
    options.out.write_bytes(video.encode(pictures, performed.rate))
    if options.truth:
        options.truth.write_bytes(write_table(performed))
    if options.dots:
        first = next(video.read(options.out.read_bytes()).pictures())
        dots = [replace(pick_dot(first, x, y, f"dot {n}"), place=place)
                for n, (place, (x, y)) in enumerate(zip(PLACES, made.centres[0], strict=True), 1)]  # fmt: skip
        options.dots.write_text(
            json.dumps(DotLayout(setting.size, tuple(dots), setting.fov).describe(), indent=1) + "\n"
        )
    if options.samples:
        options.samples.write_text(json.dumps(named) + "\n")
    print(f"wrote {options.out}: {performed.frames} frames, field of view {setting.fov:.2f} degrees")
