"""`dynaface simulate`."""

import argparse
import json
from dataclasses import replace
from pathlib import Path

from dynaface.cli.command import Command
from dynaface.core import checks
from dynaface.core.dots.dot import DotLayout, pick_dot
from dynaface.formats.entries import video
from dynaface.formats.entries.curve_table import write_table
from dynaface.formats.head_file import general_head, landmark_places
from dynaface.sims.footage.clip import random_setting, render
from dynaface.sims.footage.dots import PLACES, colours, film, head_mount
from dynaface.sims.footage.performer import make_performer
from dynaface.sims.footage.script import expressive, head_turn, range_of_motion


def arguments(one: argparse.ArgumentParser) -> None:
    """Adds its arguments."""
    one.add_argument("--seed", type=int, default=1, help="who performs, where and what (default 1)")
    one.add_argument("--what", choices=("performance", "rom", "turn"), default="performance",
                     help="an expressive performance, a range of motion, or a neutral head turn")  # fmt: skip
    one.add_argument("--seconds", type=float, default=10.0, help="length of a performance (default 10)")
    one.add_argument("--hand", action="store_true", help="a hand passes before the mouth")
    one.add_argument("--shake", type=float, default=0.0, help="metres by which a hand-held camera shakes (default 0)")
    one.add_argument("--mounted", action="store_true", help="the camera is fixed to the head")
    one.add_argument("--dots", type=Path, help="colour dots before a head mount; the dots to write (JSON)")
    one.add_argument("--out", type=Path, required=True, help="the clip to write (.mp4)")
    one.add_argument("--truth", type=Path, help="the curve table of the truth to write")
    one.add_argument("--samples", type=Path, help="the samples.json of a range of motion to write")


def run(options: argparse.Namespace) -> None:
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


COMMAND = Command("simulate", "render a made-up performer before a camera, with the truth", arguments, run)
