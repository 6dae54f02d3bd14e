"""Which joint is which: made skeletons of many makes matched to each other, by their own names and by names drawn at random, against what
each joint truly is; and a motion of 60 joints carried over with its feet held.

    python -m bench.match

A joint counts as right where it is matched to the joint that is the same, or to none where the other has none. In a spine or neck with more or
fewer joints, it is right within one joint's height. Seeds are none that anything was set by.
"""

import time
from collections import defaultdict
from dataclasses import replace

import numpy as np

from dynaface.core.body.skeleton import Motion, Skeleton
from dynaface.core.contact.find_feet import find_foot_contacts
from dynaface.core.contact.hold_feet import hold_feet
from dynaface.core.match.propose import DOUBTFUL, propose_match
from dynaface.core.match.retarget import matching_of, retarget, to_local
from dynaface.sims.skeletons import BUILDS, Made, make
from dynaface.sims.walk import walk

SEED = 7100
FRAMES = 36_000


def is_right(truth: str, said: str, ours: list[str], theirs: list[str]) -> bool:
    """Whether a joint of one truth may be matched to one of another, "" for none, by all truths of both skeletons."""
    part = truth.split(" ")[0]
    if part not in ("spine", "neck"):
        if truth.endswith("tip"):
            return said in ("", truth)
        return said == (truth if truth in theirs else "")
    count, others = (sum(t.startswith(part) for t in all_of) for all_of in (ours, theirs))
    if not said.startswith(part):
        return not others
    low, high = int(truth.split()[1]) / count, int(said.split()[1]) / others
    return abs(low - high) < 1 / min(count, others)


def judged(source: Made, target: Made) -> tuple[list[bool], list[float]]:
    """(whether each joint of the target is right, confidence of those that are wrong)."""
    found = propose_match(source.skeleton, target.skeleton)
    truth = dict(zip(source.skeleton.names, source.truth, strict=True))
    right, unsure = [], []
    for name, own in zip(target.skeleton.names, target.truth, strict=True):
        said = truth[found.matches[name]] if name in found.matches else ""
        right.append(is_right(own, said, list(target.truth), list(source.truth)))
        if not right[-1]:
            unsure.append(found.confidence.get(name, 0.0))
    return right, unsure


def carried(rig: Skeleton, motion: Motion) -> tuple[float, float]:
    """Seconds to carry a motion over, and to find and hold its feet after that."""
    start = time.perf_counter()
    turns, root = retarget(motion.skeleton, motion.local, motion.root, rig, matching_of(motion.skeleton, rig, {}, {}))
    local = to_local(rig, turns)
    moved = time.perf_counter() - start
    hold_feet(Motion(rig, local, root, motion.rate), find_foot_contacts(motion))
    return moved, time.perf_counter() - start - moved


def main() -> None:
    """Prints the tables."""
    made = {(b.make, naming): make(b, SEED + n, naming) for n, b in enumerate(BUILDS) for naming in ("", "nonsense")}
    results: dict[tuple[str, str], list[bool]] = defaultdict(list)
    wrong: list[float] = []
    start = time.perf_counter()
    for target_key, target in made.items():
        for source in made.values():
            right, unsure = judged(source, target)
            results[target_key] += right
            wrong += unsure
    seconds = time.perf_counter() - start
    print(f"{len(made)} skeletons of {len(BUILDS)} makes, each matched to all: joints that are right (wanted 97 %)\n")
    print(f"{'make':24} {'joints':>6} {'own names':>10} {'at random':>10}")
    for build in BUILDS:
        own, drawn = (100 * float(np.mean(results[build.make, naming])) for naming in ("", "nonsense"))
        print(f"{build.make:24} {len(made[build.make, ''].truth):6} {own:9.1f}% {drawn:9.1f}%")
    every = [r for found in results.values() for r in found]
    print(
        f"{'all':24} {'':6} {100 * float(np.mean(every)):9.2f}%   of {len(every)} joints; {1000 * seconds / len(made) ** 2:.1f} ms a pair"
    )
    if wrong:
        print(
            f"of those that are wrong, {100 * float(np.mean(np.array(wrong) < DOUBTFUL)):.0f} % are said to be doubtful"
        )
    seen = walk(120, 7100).motion
    times = np.resize(np.arange(seen.frames), FRAMES)
    long = replace(seen, local=seen.local[times], root=seen.root[times])
    rig = next(m.skeleton for m in made.values() if len(m.skeleton.names) >= 60)
    carried(rig, replace(long, local=long.local[:500], root=long.root[:500]))  # compiled
    moved, held = carried(rig, long)
    print(f"\n{FRAMES} frames of {len(long.skeleton.names)} joints on {len(rig.names)}: carried over in {moved:.2f} s, feet found and held in {held:.2f} s (wanted 2 in all)")  # fmt: skip


if __name__ == "__main__":
    main()
