"""Makes the demo's head-mount clips with colour dots: `python -m tools.demo.dots [NAME ...]`. Takes some minutes.

For each performer a range of motion and a line before a camera on an arm, and the dots as an animator picks them in the first
picture, with neutral frames and samples.
"""

import json
import sys
from dataclasses import replace
from fractions import Fraction

import numpy as np

from dynaface.assets import ASSETS
from dynaface.core.curves.channels import Channels
from dynaface.core.dots.dot import DotLayout, pick_dot
from dynaface.formats.entries import video
from dynaface.formats.head_file import general_head, landmark_places
from dynaface.sims.actor import Temper, act
from dynaface.sims.footage.dots import PLACES, colours, film, head_mount
from dynaface.sims.footage.performer import make_performer
from dynaface.sims.footage.script import NAMES, range_of_motion
from dynaface.sims.speech import Phone

FOLDER = ASSETS / "demo"
RATE = Fraction(30)
SEEDS = {"mara": (4110, "mara_lamp"), "ivo": (4123, "ivo_hush")}


def make(name: str) -> None:
    """Both clips of one performer and their dots."""
    seed, called = SEEDS[name]
    performer, setting = make_performer(general_head(), seed, 0.10), head_mount(seed)
    line = next(x for x in json.loads((FOLDER / "lines.json").read_text()) if x["name"] == called)
    truth = act([Phone(**p) for p in line["phones"]], line["seconds"], line["seed"], Temper(**line["temper"]), rate=30)
    performed = Channels(NAMES, np.stack([truth.column(n) for n in NAMES], axis=1), RATE)
    rom, named = range_of_motion(seed)
    for number, (part, what) in enumerate((("rom", rom), ("line", performed))):
        made = film(performer, landmark_places(), what, setting, seed + number, colours())
        data = video.encode(made.pictures, RATE, 21, 12)
        (FOLDER / f"{name}_mount_{part}.mp4").write_bytes(data)
        if part == "rom":
            picture, centres = next(video.read(data).pictures()), made.centres[0]
            dots = tuple(
                replace(pick_dot(picture, x, y, f"dot {n}"), place=place)
                for n, (place, (x, y)) in enumerate(zip(PLACES, centres, strict=True), 1)
            )
            shown = {s: f for s, f in named["samples"].items() if not s.startswith("eye") and s != "tongueOut"}  # type: ignore[attr-defined]
            layout = DotLayout(setting.size, dots, setting.fov, neutral=tuple(named["neutral"]), samples=shown)  # type: ignore[arg-type]
            (FOLDER / f"{name}_dots.json").write_text(json.dumps(layout.describe(), indent=1) + "\n")


if __name__ == "__main__":
    for wanted in sys.argv[1:] or SEEDS:
        make(wanted)
