"""Props in hands: found against spans in which a made actor carried one, and how still they lie in the hands of characters.

    python -m bench.props

The actor's prop goes with a hand of the suit in planned spans, as the suit's own skeleton says, and lies or falls elsewhere (its way is made by this
bench); joints shake by some tenths of a degree, the prop by millimetres. On characters what is measured is how far the prop wanders, seen from
the wrist that leads it, and by how much its distance from a wrist that has come to it changes, as the skeleton's own positions say.
"""

import time
from dataclasses import replace
from fractions import Fraction

import numpy as np

from dynaface.assets import ASSETS
from dynaface.core.body.rotations import Array, about_vector, continuous, inverse, multiply, rotate
from dynaface.core.body.skeleton import Motion
from dynaface.core.cast.sheet import CastSheet
from dynaface.core.curves.channels import Channels
from dynaface.core.match.anatomy import anatomy_of
from dynaface.core.perform.held_props import Standing, hold_props, holder_of
from dynaface.core.perform.join_settings import JoinSettings
from dynaface.core.perform.perform import perform_take
from dynaface.core.prop.find_holds import find_holds
from dynaface.core.prop.holder import Holder
from dynaface.core.prop.prop import Hold, PlacedProp, PropMotion, PropShape
from dynaface.core.shapes.standard import HEAD_ANGLES
from dynaface.formats.character_file import open_character
from dynaface.formats.gltf.prop import read_prop
from dynaface.sims.body_suit import move
from dynaface.sims.walk import spoilt

SEEDS = range(8000, 8030)
SECONDS, RATE = 20.0, 120
TOLERANCE = 0.1  # seconds at each end
NOISES = {"clean": (0.0, 0.0), "noise": (0.15, 0.5), "much noise": (0.3, 1.5)}  # degrees, millimetres
BEFORE = np.array([0.07, -0.035, 0.0])  # metres from the suit's left wrist to what it holds
LANTERN = read_prop((ASSETS / "props/lantern.glb").read_bytes())


def plans(seed: int) -> list[tuple[str, float, float]]:
    """Three spans in which a hand carries it: side, first and last second."""
    rng = np.random.default_rng(seed)
    out, at = [], 2.5
    for side in rng.permutation(["Left", "Right", "Right"]):
        first = at + float(rng.uniform(0.5, 1.5))
        out.append((str(side), first, first + float(rng.uniform(1.0, 3.0))))
        at = out[-1][2] + 1.2
    return out


def carried(body: Motion, planned: list[tuple[str, float, float]], shake: float, seed: int) -> PropMotion:
    """The prop's way: in hands as planned; before it is taken it comes from a metre away, and then it falls."""
    rotations, positions = body.skeleton.pose(body.local, body.root)
    names, times = body.skeleton.names, np.arange(body.frames) / float(body.rate)
    at, turns = np.zeros((body.frames, 3)), np.zeros((body.frames, 4))
    bounds = [0.0, *((a[2] + b[1]) / 2 for a, b in zip(planned, planned[1:], strict=False)), np.inf]
    for number, (side, first, last) in enumerate(planned):
        own = (times >= bounds[number]) & (times < bounds[number + 1])
        wrist = names.index(f"Hand_{side[0]}")
        offset = BEFORE * [1.0 if side == "Left" else -1.0, 1.0, 1.0]
        turn = rotations[own, wrist]
        place = positions[own, wrist] + rotate(turn, np.broadcast_to(offset, (int(own.sum()), 3)))
        before, after = np.maximum(first - times[own], 0), np.maximum(times[own] - last, 0)
        # It is set down beside the hand by a swift movement of somebody else, and drops out of it.
        place[:, 2] += np.minimum(2.2 * before, 1.0)
        place[:, 1] -= 4.9 * after**2
        at[own], turns[own] = place, turn
    wobble = np.random.default_rng(seed).normal(0, shake / 1000, at.shape)
    return PropMotion(continuous(turns), at + wobble, body.rate)


def finding() -> None:
    """Prints how surely holds are found."""
    print(f"{len(SEEDS)} actors, a lantern in a hand three times in {SECONDS:g} s; ends within {TOLERANCE:g} s\n")
    for words, (degrees, millimetres) in NOISES.items():
        total, free = np.zeros(3), 0
        for seed in SEEDS:
            body, planned = move(SECONDS, None, seed), plans(seed)  # type: ignore[arg-type]
            shape = PropShape(LANTERN.points, carried(body, planned, millimetres, seed))
            shaken = spoilt(body, degrees, 0.0, 0.0, seed)
            who = {"actor": Holder(shaken.skeleton, shaken.local, shaken.root)}
            found = find_holds(PlacedProp(plays=0.0), shape, who, shaken.frames, Fraction(RATE))
            left = [(h.side, h.first / RATE, h.last / RATE) for h in found]
            total += [0, len(planned), len(left)]
            for side, first, last in planned:
                near = [f for f in left if f[0] == side and max(abs(f[1] - first), abs(f[2] - last)) <= TOLERANCE]
                if near:
                    left.remove(near[0])
                    total[0] += 1
            aside = PlacedProp(at=(1.5, 0.8, 0.5))
            free += len(find_holds(aside, LANTERN, who, shaken.frames, Fraction(RATE)))
        f1 = 2 * total[0] / (total[1] + total[2])
        print(
            f"{words:12} F1 {f1:.3f}   found on one that stands aside: {free} in {len(SEEDS) * SECONDS / 60:.0f} minutes"
        )


def played(name: str, seed: int, frames: int) -> Holder:
    """A character that talks with its hands."""
    rig, _, _ = open_character((ASSETS / f"characters/{name}.glb").read_bytes())
    face = Channels(HEAD_ANGLES, np.zeros((frames, 3), np.float32), Fraction(60))
    body = move(frames / 60, None, seed, steps=0)  # type: ignore[arg-type]
    made = perform_take(face, rig, CastSheet(), body, JoinSettings())
    holder = holder_of(made, rig, Standing())
    assert holder is not None
    return holder


def wander(holder: Holder, side: str, way: Array, rows: slice) -> Array:
    """(n,) metres by which a place goes away from its median, seen from a wrist."""
    rotations, positions = holder.pose()
    wrist = anatomy_of(holder.skeleton).joint("hand", side[0])
    seen = rotate(inverse(rotations[rows, wrist]), way[rows] - positions[rows, wrist])
    return np.asarray(np.linalg.norm(seen - np.median(seen, axis=0), axis=1))


def off_wrist(holder: Holder, side: str, way: Array, rows: slice) -> Array:
    """(n,) metres by which a place is nearer to a wrist, or farther from it, than its median: a hand that has come to it stays as far."""
    _, positions = holder.pose()
    far = np.linalg.norm(way[rows] - positions[rows, anatomy_of(holder.skeleton).joint("hand", side[0])], axis=1)
    return np.asarray(np.abs(far - np.median(far)))


def swaying(about: Array, frames: int) -> PropMotion:
    """A prop that sways by some centimetres about a place, and turns."""
    t = np.arange(frames) / 60
    turns = about_vector(np.stack([0.1 * np.sin(3 * t), 0.6 * np.sin(t), np.zeros(frames)], axis=1))
    return PropMotion(
        turns, about + 0.04 * np.stack([np.sin(2 * t), np.sin(1.3 * t), np.cos(1.7 * t)], axis=1), Fraction(60)
    )


def holding() -> None:
    """Prints how still props lie in hands, and how far the way goes in a frame where they change hands."""
    print(
        "\nmillimetres, most: prop seen from the wrist that leads it; its distance from one that comes to it while it sways; its way in a frame"
    )
    for name in ("odile", "brindle"):
        leads, comes, steps = [], [], []
        for seed in list(SEEDS)[:8]:
            frames = 600
            holder = played(name, seed, frames)
            _, positions = holder.pose()
            chest = (
                positions[300, holder.hands["Left"].bones.top] * 0.5
                + positions[300, holder.hands["Right"].bones.top] * 0.5
            )
            size = holder.hands["Left"].size
            stand = chest + np.array([0.0, -0.18, 0.22]) * size
            prop = PlacedProp(
                at=tuple(stand), in_hand=False, hangs=True, holds={"takes": Hold("one", "Right", 120, 380)}
            )  # type: ignore[arg-type]
            held = hold_props({"lantern": (prop, LANTERN)}, {"one": holder}, frames, Fraction(60))
            way = held.props["lantern"].way
            leads.append(wander(holder, "Right", way.at, slice(150, 381)).max())
            steps.append(np.linalg.norm(np.diff(way.at, axis=0), axis=1).max())
            sways = PropShape(LANTERN.points, swaying(stand, frames))
            prop = PlacedProp(plays=0.0, holds={"comes": Hold("one", "Left", 120, 380)})
            held = hold_props({"lantern": (prop, sways)}, {"one": holder}, frames, Fraction(60))
            comes.append(off_wrist(holder, "Left", held.props["lantern"].way.at, slice(120, 381)).max())
        row = "   ".join(f"{np.max(v) * 1000:6.2f}" for v in (leads, comes, steps))
        print(f"{name:8} {row}   (median {np.median(comes) * 1000:.2f} for the hand that comes)")


def main() -> None:
    """Prints the tables."""
    finding()
    holding()
    holder = played("odile", 1, 600)
    frames = 36_000
    times = frames // 600
    long = replace(holder, local=np.tile(holder.local, (times, 1, 1)), root=np.tile(holder.root, (times, 1)), arms={})
    prop = PlacedProp(
        hangs=True, holds={"a": Hold("one", "Right", 0, 20_000), "b": Hold("one", "Left", 19_000, 35_999)}
    )
    begin = time.perf_counter()
    hold_props({"lantern": (prop, LANTERN)}, {"one": long}, frames, Fraction(60))
    took = time.perf_counter() - begin
    begin = time.perf_counter()
    multiply(long.skeleton.pose(long.local, long.root)[0], np.array([0.0, 0.0, 0.0, 1.0]))
    print(
        f"\n36,000 frames with a prop that changes hands: {took:.2f} s; posing them alone takes {time.perf_counter() - begin:.2f} s"
    )


if __name__ == "__main__":
    main()
