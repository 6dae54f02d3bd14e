"""The bodies and hands of the demo's takes: `python -m tools.demo.bodies`, from what each take says."""

import json
from dataclasses import replace
from fractions import Fraction
from pathlib import Path

import numpy as np

from dynaface.assets import ASSETS
from dynaface.core.body.skeleton import Motion
from dynaface.core.clock.timecode import from_seconds, parse_timecode
from dynaface.formats.entries import bvh
from dynaface.sims import gloves, stage_body
from dynaface.sims.actor import Temper, act
from dynaface.sims.speech import Phone

EARLY, LATE = 3.0, 1.5  # seconds that the stage records before and after the phone
STEPS = {"mara_lamp": 4, "mara_ferry": 0, "ivo_hush": 0}
RATES = {"ivo_hush": Fraction(120_000, 1001)}
"""Of those whose stage does not run at 120."""


def bodies(folder: Path) -> None:
    """Writes a body and a pair of gloves for each of the demo's spoken takes."""
    for said in json.loads((folder / "lines.json").read_text()):
        name, seed = said["name"], said["seed"]
        truth = act([Phone(**p) for p in said["phones"]], said["seconds"], seed, Temper(**said["temper"]))
        begins = parse_timecode(said["start"], Fraction(60)).seconds - EARLY
        seconds = truth.seconds + EARLY + LATE
        motion = stage_body.perform(seconds, from_seconds(begins, Fraction(120)), seed, STEPS[name])
        (folder / f"{name}_body.bvh").write_bytes(bvh.write(at_rate(motion, RATES.get(name, motion.rate))))
        worn = gloves.perform(seconds, from_seconds(begins, Fraction(gloves.RATE)), seed)
        (folder / f"{name}_hands.bvh").write_bytes(bvh.write(worn))


def at_rate(motion: Motion, rate: Fraction) -> Motion:
    """The motion as a stage at another rate records it, its count in that rate."""
    if rate == motion.rate or motion.timecode is None:
        return motion
    times = np.arange(int(motion.seconds * rate)) / float(rate)
    local, root = motion.at(times)
    return replace(motion, local=local, root=root, rate=rate, timecode=from_seconds(motion.timecode.seconds, rate))


if __name__ == "__main__":
    bodies(ASSETS / "demo")
