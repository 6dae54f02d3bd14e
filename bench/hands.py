"""Hands that touch: found against moments that were planned, and where they are on characters of other builds once they are held.

    python -m bench.hands

Actors talk with their hands, put a finger to the chin, lay palms together and clap as their seeds have it (`sims/touches.py`); joints shake by
some tenths of a degree. On characters the distance of the finger is measured to the nearest vertex of the face's own mesh, as its head carries it,
and that of palms between the middles of wrist and knuckles, by this bench.
"""

import time
from dataclasses import replace
from fractions import Fraction

import numpy as np

from dynaface.assets import ASSETS
from dynaface.core.body.rotations import Array, inverse, multiply, rotate
from dynaface.core.body.skeleton import Motion
from dynaface.core.cast.sheet import CastSheet
from dynaface.core.contact.find_hands import find_touches
from dynaface.core.curves.channels import Channels
from dynaface.core.match.anatomy import anatomy_of
from dynaface.core.perform.join_settings import JoinSettings
from dynaface.core.perform.perform import perform_take
from dynaface.core.shapes.standard import HEAD_ANGLES
from dynaface.formats.character_file import open_character
from dynaface.sims.body_suit import move
from dynaface.sims.touches import Plan, touched
from dynaface.sims.walk import spoilt

SEEDS = range(7000, 7030)
SECONDS, RATE = 20.0, 120
TOLERANCE = 0.1  # seconds at each end
NOISES = {"clean": 0.0, "noise": 0.15, "much noise": 0.3}  # degrees
CHARACTERS = ("odile", "brindle", "kettle")


def plans(seed: int) -> list[Plan]:
    """Five touches, one after the other."""
    rng = np.random.default_rng(seed)
    kinds = rng.permutation(["RightHand", "LeftHand", "Hands", "Clap", "Clap"])
    out, at = [], 3.0
    for kind in kinds:
        at += float(rng.uniform(1.0, 1.6))
        if kind == "Clap":
            out.append(Plan("Hands", at, at + 0.05, float(rng.uniform(0.18, 0.26))))
        else:
            out.append(Plan(str(kind), at, at + float(rng.uniform(0.5, 1.5)), float(rng.uniform(0.4, 0.7))))
        at = out[-1].last + 0.7
    return out


def counted(found: dict[str, tuple[tuple[int, int], ...]], planned: list[Plan]) -> tuple[int, int, int]:
    """(touches found within the tolerance at both ends, touches that there are, touches found)."""
    left = [(kind, a / RATE, b / RATE) for kind, spans in found.items() for a, b in spans]
    said, hits = len(left), 0
    for plan in planned:
        near = [
            f for f in left if f[0] == plan.what and max(abs(f[1] - plan.first), abs(f[2] - plan.last)) <= TOLERANCE
        ]
        if near:
            left.remove(near[0])
            hits += 1
    return hits, len(planned), said


def finding() -> None:
    """Prints how surely touches are found."""
    print(f"{len(SEEDS)} actors, five touches each in {SECONDS:g} s; ends within {TOLERANCE:g} s\n")
    for words, noise in NOISES.items():
        total = np.zeros(3)
        free = 0
        for seed in SEEDS:
            body = move(SECONDS, None, seed)  # type: ignore[arg-type]
            total += counted(find_touches(spoilt(touched(body, plans(seed)), noise, 0.0, 0.0, seed)), plans(seed))
            free += sum(len(s) for s in find_touches(spoilt(body, noise, 0.0, 0.0, seed)).values())
        f1 = 2 * total[0] / (total[1] + total[2])
        print(
            f"{words:12} F1 {f1:.3f}   found where nothing touches: {free} in {len(SEEDS) * SECONDS / 60:.0f} minutes"
        )


def holding() -> None:
    """Prints where hands are on characters."""
    print(
        "\nmillimetres, median and most: finger to the face's mesh on the chin; between palms laid together; at claps"
    )
    for name in CHARACTERS:
        rig, geometry, _ = open_character((ASSETS / f"characters/{name}.glb").read_bytes())
        skeleton, mesh = rig.skeleton, geometry.face
        assert skeleton is not None
        anatomy = anatomy_of(skeleton)
        rest_turn, rest_at = skeleton.global_rest()
        head = anatomy.joint("head")
        for touch in (False, True):
            gaps: dict[str, list[Array]] = {"chin": [], "palms": [], "claps": []}
            for seed in list(SEEDS)[:8]:
                body = touched(move(SECONDS, None, seed), plans(seed))  # type: ignore[arg-type]
                frames = int(SECONDS * 60)
                face = Channels(HEAD_ANGLES, np.zeros((frames, 3), np.float32), Fraction(60))
                face.values[:, 0] = 15 * np.sin(np.arange(frames) / 40)
                made = perform_take(face, rig, CastSheet(), body, JoinSettings(touch=touch)).motion(skeleton)
                rotations, at = skeleton.pose(made.local, made.root)
                for plan in plans(seed):
                    rows = np.arange(int(np.ceil(plan.first * 60)), int(plan.last * 60) + 1)
                    if plan.what == "Hands":
                        kind = "claps" if plan.last - plan.first < 0.1 else "palms"
                        gaps[kind].append(np.linalg.norm(palm(made, at, "L")[rows] - palm(made, at, "R")[rows], axis=1))
                        continue
                    if mesh is None:  # its face has no shapes, so that no mesh of it is known
                        continue
                    fingers = anatomy.chain("finger2", plan.what[0]) or [anatomy.joint("hand", plan.what[0])]
                    tip, before = at[rows, fingers[-1]], at[rows, skeleton.parents[fingers[-1]]]
                    long = 0.8 if len(fingers) > 1 else 0.17 / 0.25
                    turned = multiply(rotations[rows, head], inverse(rest_turn[head]))
                    place = rotate(inverse(turned), tip + long * (tip - before) - at[rows, head]) + rest_at[head]
                    gaps["chin"].append(np.array([np.linalg.norm(mesh.points - p, axis=1).min() for p in place[::4]]))
            row = "   ".join(
                f"{k} {np.median(v := np.concatenate(g) * 1000):5.1f} {v.max():6.1f}" for k, g in gaps.items() if g
            )
            print(f"{name:8} {'held' if touch else 'as they come':13} {row}")


def palm(made: Motion, at: Array, side: str) -> Array:
    """(frames, 3) the middle of wrist and knuckles; of a hand without fingers beyond the wrist, as far as the forearm says."""
    anatomy = anatomy_of(made.skeleton)
    wrist, elbow = (at[:, anatomy.joint(p, side)] for p in ("hand", "lowerarm"))
    knuckles = [at[:, c[0]] for digit in range(2, 6) if (c := anatomy.chain(f"finger{digit}", side))]
    return (wrist + np.mean(knuckles, axis=0)) / 2 if knuckles else wrist + 0.3 * (wrist - elbow)


def main() -> None:
    """Prints the tables."""
    finding()
    holding()
    body = touched(move(60.0, None, 1), plans(1))  # type: ignore[arg-type]
    times = -(-36_000 // body.frames)
    long = replace(
        body, local=np.tile(body.local, (times, 1, 1))[:36_000], root=np.tile(body.root, (times, 1))[:36_000]
    )
    begin = time.perf_counter()
    find_touches(long)
    took = time.perf_counter() - begin
    begin = time.perf_counter()
    long.skeleton.pose(long.local, long.root)
    print(f"\n36,000 frames: found in {took:.2f} s; posing them alone takes {time.perf_counter() - begin:.2f} s")


if __name__ == "__main__":
    main()
