"""Feet of made walks: contacts found against those that were planned, what slides and jerks once they are held, and the time it takes.

    python -m bench.contacts

The walks stand, step and jump as their seeds have it (`sims/walk.py`); then joints shake, the root shakes, and the way on the ground comes
out 5 % too long. Seeds are none that anything was set by.
"""

import time
from dataclasses import replace

import numpy as np

from dynaface.assets import ASSETS
from dynaface.core.body.rotations import Array, rotate
from dynaface.core.body.skeleton import Motion
from dynaface.core.cast.sheet import CastSheet
from dynaface.core.contact.by_hand import SetContact
from dynaface.core.contact.find_feet import FootContacts, find_foot_contacts
from dynaface.core.contact.hold_feet import hold_feet
from dynaface.core.curves.channels import Channels
from dynaface.core.evaluate.cache import Cache
from dynaface.core.evaluate.contacts_part import JoinedTake, contacts_part
from dynaface.core.evaluate.node import constant
from dynaface.core.evaluate.take import take_graph
from dynaface.core.perform.join_settings import JoinSettings
from dynaface.core.shapes.standard import HEAD_ANGLES
from dynaface.formats.gltf.character import read_character
from dynaface.sims.walk import ANKLE, BACK, Walk, spoilt, walk

SEEDS = range(9000, 9030)
KINDS = {"clean": (0.0, 0.0, 0.0), "noise, drift": (0.15, 0.001, 0.05), "much noise, drift": (0.3, 0.002, 0.05)}
FRAMES = 7_200
TOLERANCE = 2 / 60  # seconds
ENDS = {"Left": "_L", "Right": "_R"}


def true_places(motion: Motion) -> dict[str, Array]:
    """Places of the simulator's own heels and toes (frames, 3), and the degrees by which each knee is bent (frames,)."""
    rotations, positions = motion.skeleton.pose(motion.local, motion.root)
    at = motion.skeleton.names.index
    out = {}
    for side, end in ENDS.items():
        ankle = positions[:, at("Foot" + end)]
        sole = np.broadcast_to(np.array([0.0, -ANKLE, -BACK]), ankle.shape)
        out["heel" + side] = ankle + rotate(rotations[:, at("Foot" + end)], sole)
        out["toe" + side] = positions[:, at("Toe" + end)]
        thigh, shin = (
            positions[:, at(b + end)] - positions[:, at(a + end)] for a, b in (("UpLeg", "LowLeg"), ("LowLeg", "Foot"))
        )
        cosine = (thigh * shin).sum(axis=1) / np.linalg.norm(thigh, axis=1) / np.linalg.norm(shin, axis=1)
        out["knee" + side] = np.degrees(np.arccos(np.clip(cosine, -1, 1)))
    return out


def counted(made: Walk, found: tuple[FootContacts, ...], place: str, rate: int) -> tuple[int, int, int]:
    """(spans found within the tolerance at both ends, spans that there are, spans found)."""
    hits = there = said = 0
    for foot in found:
        truth, spans = made.spans[place + foot.side], getattr(foot, place)
        left = list(spans)
        for first, last in truth:
            near = next((s for s in left if max(abs(s[0] - first), abs(s[1] - last)) <= TOLERANCE * rate), None)
            if near:
                left.remove(near)
                hits += 1
        there, said = there + len(truth), said + len(spans)
    return hits, there, said


def main() -> None:
    """Prints the tables."""
    print(f"{len(SEEDS)} walks of a few steps and jumps; spans count where both ends lie within 2 frames at 60 fps\n")
    print(
        f"{'':22} rate   F1 foot   heel    toe   slides before   after: 95 %    most   knee jerks: median   90 %   most"
    )
    for kind, (noise, jitter, drift) in KINDS.items():
        for rate in (60, 120):
            sums = {place: np.zeros(3) for place in ("foot", "heel", "toe")}
            before, after, jerks = [], [], []
            for seed in SEEDS:
                made = walk(rate, seed)
                seen = spoilt(made.motion, noise, jitter, drift, seed + 1)
                found = find_foot_contacts(seen)
                for place, total in sums.items():
                    total += counted(made, found, place, rate)
                was, now = true_places(seen), true_places(hold_feet(seen, found))
                for foot in found:
                    for place in ("heel", "toe"):
                        for first, last in getattr(foot, place):
                            one, other = (p[place + foot.side][first : last + 1] for p in (was, now))
                            before.append(np.linalg.norm(np.ptp(one, axis=0)) * 1000)
                            after.append(np.linalg.norm(np.ptp(other, axis=0)) * 1000)
                    jerk = [np.abs(np.diff(p["knee" + foot.side], 2)).max() for p in (now, was)]
                    jerks.append(jerk[0] / jerk[1])
            f1 = [2 * total[0] / (total[1] + total[2]) for total in sums.values()]
            print(f"{kind:22} {rate:4}  {f1[0]:8.3f} {f1[1]:6.3f} {f1[2]:6.3f}   {np.median(before):8.1f} mm   {np.percentile(after, 95):10.2f} {max(after):7.2f}"
                  f"   {np.median(jerks):18.2f} {np.percentile(jerks, 90):6.2f} {max(jerks):6.2f}")  # fmt: skip
    made = walk(60, SEEDS[0]).motion
    times = -(-36_000 // made.frames)
    long = Motion(
        made.skeleton, np.tile(made.local, (times, 1, 1))[:36_000], np.tile(made.root, (times, 1))[:36_000], made.rate
    )
    begin = time.perf_counter()
    found = find_foot_contacts(long)
    middle = time.perf_counter()
    hold_feet(long, found)
    end = time.perf_counter()
    long.skeleton.pose(long.local, long.root)
    print(f"\n36,000 frames of {len(long.skeleton.names)} joints: found in {middle - begin:.2f} s, held in {end - middle:.2f} s; "
          f"posing them alone takes {time.perf_counter() - end:.2f} s")  # fmt: skip
    dragged, dropped = edge_moved(made)
    print(
        f"a contact's edge on two minutes at 60 fps, on Odile: dragged {1000 * dragged:.0f} ms (wanted 60), all of it anew {1000 * dropped:.0f} ms"
    )


def edge_moved(motion: Motion) -> tuple[float, float]:
    """Seconds until a character moves anew after an edge of a contact was moved: by the stretch that changes, as a drag does it, and as a
    whole, each the median of nine moves.
    """
    times = -(-FRAMES // motion.frames)
    local, root = np.tile(motion.local, (times, 1, 1))[:FRAMES], np.tile(motion.root, (times, 1))[:FRAMES]
    seen = replace(motion, local=local, root=root)
    names = (*HEAD_ANGLES, "jawOpen")
    face = Channels(names, np.zeros((FRAMES, len(names)), np.float32), motion.rate)
    odile = read_character((ASSETS / "characters/odile.glb").read_bytes(), "odile.glb")
    cache, parts, wholes = Cache(4_000_000_000), [], []
    raw, rig, body = constant("face", face), constant("odile", odile), constant("body", seen)
    before = JoinSettings(feet=True)
    stored = take_graph(raw, 60.0, [], {}, rig, None, body, before)
    assert stored.performed is not None
    stored.performed.result(cache)
    joined = JoinedTake(stored, odile, CastSheet(), seen, find_foot_contacts(seen), {})
    for number in range(10):
        settings = replace(before, contacts={"a": SetContact("Left", 60.0, 60.5 + number / 60)})
        start = time.perf_counter()
        assert contacts_part(joined, before, settings, cache) is not None
        parts.append(time.perf_counter() - start)
        graph = take_graph(raw, 60.0, [], {}, rig, None, body, settings)
        assert graph.performed is not None
        start = time.perf_counter()
        graph.performed.result(cache)
        wholes.append(time.perf_counter() - start)
    return float(np.median(parts[1:])), float(np.median(wholes[1:]))


if __name__ == "__main__":
    main()
