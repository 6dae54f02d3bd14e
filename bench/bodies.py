"""Figures of tidying bodies: `python -m bench.bodies`.

Walks with planned footsteps, as a suit writes them (a quarter of a degree of noise), each broken once in each way: whether the fault is found where
it was put, what is said of a sound take, and by how much a mend brings the motion back to the one that was broken. The truth is the walk
before it was broken, which nothing that is measured sees. At the end how long long takes take, beside the filter alone.
"""

import time

import numpy as np
from scipy.signal import butter, sosfiltfilt

from dynaface.core.body.skeleton import Motion
from dynaface.core.contact.find_feet import find_foot_contacts
from dynaface.core.perform.join_settings import JoinSettings
from dynaface.core.snags.snag import Snag
from dynaface.core.snags_body.evidence import BodyEvidence
from dynaface.core.snags_body.find import find_body_snags
from dynaface.core.tidy_body.stack import BODY_STEPS, parse_body_steps
from dynaface.core.tidy_body.step import tidy_body
from dynaface.core.tidy_body.turns import angles_between
from dynaface.sims.body_faults import BODY_FAULTS, Broken
from dynaface.sims.walk import spoilt, walk

SEEDS = range(900, 930)
NOISE, SHAKE = 0.25, 0.0008  # degrees, metres
NEAR = 0.15  # seconds by which a snag may begin beside its fault


def evidence(motion: Motion, feet: bool) -> BodyEvidence:
    """A body on its own, at its own rate, from its first frame on."""
    return BodyEvidence(
        motion, 0.0, float(motion.rate), motion.frames, find_foot_contacts(motion), JoinSettings(feet=feet)
    )


def is_there(snag: Snag, broken: Broken, rate: float) -> bool:
    """Whether a snag lies where a fault was put."""
    near = NEAR * rate
    return snag.first <= broken.last + near and snag.last >= broken.first - near


def error(motion: Motion, truth: Motion, broken: Broken) -> float:
    """Degrees of the joints that were broken, metres of the hips where none was, on average over the fault."""
    at = slice(broken.first, broken.last + 1)
    if broken.joints:
        return float(angles_between(motion.local[at, broken.joints], truth.local[at, broken.joints]).mean())
    off = motion.root[at] - truth.root[at]
    return float(np.linalg.norm(off - off.mean(axis=0), axis=1).mean())


def mended(motion: Motion, snags: list[Snag]) -> Motion:
    """Through the steps of mends; settings of a join are none of the body's."""
    return tidy_body(motion, parse_body_steps([dict(m) for s in snags for m in s.steps if "step" in m]))


def main() -> None:
    """Prints the figures."""
    sound = {s: spoilt(walk((60, 120)[s % 2], s).motion, NOISE, SHAKE, 0.0, s + 1) for s in SEEDS}
    minutes = sum(m.seconds for m in sound.values()) / 60
    idle = [s for m in sound.values() for s in find_body_snags(evidence(m, True))]
    print(f"{len(sound)} sound walks, {minutes:.1f} minutes: {len(idle)} snags, {len(idle) / minutes:.2f} a minute")
    print(f"{'':22}{'found':>8}{'others a take':>15}{'error before':>14}{'after its mend':>16}")
    for kind, fault in BODY_FAULTS.items():
        found, others, before, after = 0, 0, [], []
        for seed, truth in sound.items():
            broken = fault(truth, np.random.default_rng(seed))
            feet = kind != "through the ground"
            snags = find_body_snags(evidence(broken.motion, feet))
            own = [s for s in snags if s.kind == kind and is_there(s, broken, float(truth.rate))]
            found += bool(own)
            others += sum(not is_there(s, broken, float(truth.rate)) for s in snags)
            if own and any("step" in m for s in own for m in s.steps):
                before.append(error(broken.motion, truth, broken))
                after.append(error(mended(broken.motion, own), truth, broken))
        unit = "deg" if broken.joints else "m"
        row = f"{np.mean(before):>10.2f} {unit}{np.mean(after):>12.2f} {unit}" if before else "  (held by the join)"
        print(f"{kind:22}{found:>5}/{len(sound)}{others / len(sound):>13.2f}  {row}")
    long = spoilt(walk(60, 4).motion, NOISE, SHAKE, 0.0, 5)
    repeats = -(-36_000 // long.frames)
    whole = Motion(
        long.skeleton,
        np.tile(long.local, (repeats, 1, 1))[:36_000],
        np.tile(long.root, (repeats, 1))[:36_000],
        long.rate,
    )
    sections = butter(2, 5, fs=60, output="sos")
    flat = whole.local.reshape(len(whole.local), -1)
    start = time.perf_counter()
    sosfiltfilt(sections, flat, axis=0)
    plain = time.perf_counter() - start
    print(f"36,000 frames of {len(whole.skeleton.names)} joints; SciPy's filter on their numbers alone {plain:.2f} s")
    for name in BODY_STEPS:
        given = {"frames": 2.5} if name == "shift in time" else {}
        steps = parse_body_steps([{"step": name, **given}])
        tidy_body(long, steps)
        start = time.perf_counter()
        tidy_body(whole, steps)
        took = time.perf_counter() - start
        print(f"  {name:18}{took:>7.2f} s{took / plain:>8.1f} x")
    start = time.perf_counter()
    find_body_snags(evidence(whole, True))
    print(f"  {'all detectors':18}{time.perf_counter() - start:>7.2f} s")


if __name__ == "__main__":
    main()
