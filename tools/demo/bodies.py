"""The bodies and hands of the demo's takes: `python -m tools.demo.bodies`, from what each take says."""

import json
from dataclasses import replace
from fractions import Fraction
from pathlib import Path

import numpy as np

from dynaface.assets import ASSETS
from dynaface.core.body.rotations import about, multiply
from dynaface.core.body.skeleton import Motion
from dynaface.core.clock.timecode import from_seconds, parse_timecode
from dynaface.formats.entries import bvh
from dynaface.sims import gloves, stage_body
from dynaface.sims.actor import Temper, act
from dynaface.sims.moment import clapping
from dynaface.sims.speech import Phone
from dynaface.sims.touches import Plan

EARLY, LATE = 3.0, 1.5  # seconds that the stage records before and after the phone
STEPS = {"mara_lamp": 4, "mara_ferry": 0, "ivo_hush": 0}
TOUCHES = {"mara_lamp": [Plan("RightHand", 6.5, 7.6)], "ivo_hush": [Plan("Hands", 5.0, 6.4, 0.5)]}
"""Moments at which hands touch: Odile's at the chin, Brindle's on each other. Seconds of the stage."""
FAULTY = "mara_ferry"
"""The take whose suit lost an arm for a moment and has a frame that jumps, so that there is something to mend."""
RATES = {"ivo_hush": Fraction(120_000, 1001)}
"""Of those whose stage does not run at 120; its count is one number of frames from midnight."""
CLAPS = {"mara_lamp": [1.6]}
"""When hands clap for a recording without a count, in seconds of the stage."""


def bodies(folder: Path) -> None:
    """Writes a body and a pair of gloves for each of the demo's spoken takes."""
    for said in json.loads((folder / "lines.json").read_text()):
        name, seed = said["name"], said["seed"]
        truth = act([Phone(**p) for p in said["phones"]], said["seconds"], seed, Temper(**said["temper"]))
        begins = parse_timecode(said["start"], Fraction(60)).seconds - EARLY
        seconds = truth.seconds + EARLY + LATE
        motion = stage_body.perform(
            seconds, from_seconds(begins, Fraction(120)), seed, STEPS[name], TOUCHES.get(name, ())
        )
        motion = clapping(motion, CLAPS.get(name, ()))
        motion = faulty(motion) if name == FAULTY else at_rate(motion, RATES.get(name, motion.rate))
        written = bvh.write(motion)
        if name in RATES and motion.timecode is not None:
            written = written[: written.rindex(b"# timecode")] + f"# timecode {motion.timecode.frames}\n".encode()
        (folder / f"{name}_body.bvh").write_bytes(written)
        worn = gloves.perform(seconds, from_seconds(begins, Fraction(gloves.RATE)), seed)
        (folder / f"{name}_hands.bvh").write_bytes(bvh.write(worn))


def faulty(motion: Motion) -> Motion:
    """Where an arm moves most it stands still for 0.4 s; 1.2 s earlier a shin jumps for two frames; a hand trembles in the last second but one."""
    names, local = motion.skeleton.names, motion.local.copy()
    arm = [names.index(n) for n in ("UpperArm_R", "ForeArm_R", "Hand_R")]
    inside = slice(round(EARLY * 120) + 200, motion.frames - 300)
    speed = np.abs(np.diff(local[:, arm[1]], axis=0)).sum(axis=1)
    at = inside.start + int(np.argmax(speed[inside]))
    local[at : at + 48, arm] = local[at, arm]
    shin = names.index("LowLeg_L")
    local[at - 144 : at - 142, shin] = multiply(about("x", 25.0), local[at - 144 : at - 142, shin])
    hand, last = names.index("Hand_L"), slice(motion.frames - 280, motion.frames - 200)
    shake = np.random.default_rng(7).normal(0, 3.0, 80)
    local[last, hand] = multiply(about("z", shake), local[last, hand])
    return replace(motion, local=local)


def at_rate(motion: Motion, rate: Fraction) -> Motion:
    """The motion as a stage at another rate records it, its count in that rate."""
    if rate == motion.rate or motion.timecode is None:
        return motion
    times = np.arange(int(motion.seconds * rate)) / float(rate)
    local, root = motion.at(times)
    return replace(motion, local=local, root=root, rate=rate, timecode=from_seconds(motion.timecode.seconds, rate))


if __name__ == "__main__":
    bodies(ASSETS / "demo")
