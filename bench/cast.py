"""How well foreign rigs are recognised, and how fast a sheet is evaluated: `python -m bench.cast [first seed] [rigs]`.

Rigs are made by dynaface.sims.strange_rigs; the matcher sees names, points, triangles and offsets, never the truth.
"""

import sys
from fractions import Fraction

import numpy as np

from bench.core import median_ms
from dynaface.assets import ASSETS
from dynaface.core.cast.apply import apply_sheet
from dynaface.core.cast.character import Character, MeshTargets
from dynaface.core.cast.crossings import find_crossings
from dynaface.core.cast.match import Match, match_by_name
from dynaface.core.cast.recognise import recognise
from dynaface.core.cast.sheet import parse_sheet
from dynaface.core.curves.channels import Channels
from dynaface.core.shapes.standard import SHAPES
from dynaface.formats.character_file import open_character
from dynaface.formats.head_file import general_face, general_head
from dynaface.sims.footage.script import expressive
from dynaface.sims.strange_rigs import StrangeRig, make_rig

FIRST, RIGS = 400, 12  # seeds that nothing was tuned on
SURFACES = ("coarser", "as it is", "finer")


def judge(rig: StrangeRig, found: dict[str, Match]) -> tuple[int, int, int]:
    """(right, given, there): a target is right when its greatest part is the shape that it does."""
    right = sum(rig.truth[t] != "" and m.shape == rig.truth[t] for t, m in found.items())
    return right, len(found), sum(s != "" for s in rig.truth.values())


def by_shape(first: int, rigs: int) -> None:
    """Prints precision and recall for rigs with names that say nothing."""
    head = general_head()
    standard = general_face()
    for label, more in (("52 shapes less 5, 68 others", {}), ("with 4 shapes in halves", {"split": 4})):
        for surface in SURFACES:
            total = np.zeros(3, int)
            worst = 1.0
            for seed in range(first, first + rigs):
                rig = make_rig(head, seed, surface, **more)  # type: ignore[arg-type]
                scores = np.array(judge(rig, recognise(rig.geometry, standard)[0]))
                worst = min(worst, scores[0] / scores[2])
                total += scores
            right, given, there = total
            print(f"by shape, {label}, {surface}: precision {right / given:.3f}, recall {right / there:.3f} "
                  f"(worst rig {worst:.2f}), {rigs} rigs")  # fmt: skip


def spelled(shape: str, way: int) -> str:
    """A shape's name as some exporter might write it."""
    stem = shape.removesuffix("Left").removesuffix("Right")
    side = shape[len(stem) :] if shape not in ("jawLeft", "jawRight", "mouthLeft", "mouthRight") else ""
    stem = stem if side else shape
    snake = "".join("_" + c.lower() if c.isupper() else c for c in stem)
    return [
        f"{stem}_{side[0]}" if side else stem,
        f"{side.lower()}_{snake}" if side else snake,
        f"Head_geo.{shape}",
        f"rig:{snake}_{side[:1].lower()}" if side else f"rig:{snake}",
        shape.upper(),
        f"{snake.replace('_', ' ')} {side}".strip().title(),
        f"face_{snake}{'.' + side[0] if side else ''}",
        f"bs_{shape[0].upper()}{shape[1:]}",
    ][way]


def by_name() -> None:
    """Prints how many spellings are read right."""
    wrong = [(n, s) for way in range(8) for s in SHAPES
             if (m := match_by_name(n := spelled(s, way))) is None or m.shape != s]  # fmt: skip
    print(f"by name: {8 * len(SHAPES) - len(wrong)} of {8 * len(SHAPES)} spellings read right {wrong[:4] or ''}")


def contacts(first: int) -> None:
    """Prints how far lips and lids are apart where a made-up performer's close, without and with contacts kept."""
    for name in ("odile", "brindle"):
        character, _, _ = open_character((ASSETS / f"characters/{name}.glb").read_bytes(), name)
        before, after, crossed = [], [], np.zeros(2, int)
        for seed in range(first, first + 4):
            takes = expressive(20.0, seed)
            for kept in (False, True):
                made = apply_sheet(takes, character, parse_sheet({"contacts": {"lips": kept, "lids": kept}}))
                crossed[int(kept)] += len(find_crossings(made.targets, made.weights, character.study.edges))
                before += [abs(k.before) for k in made.kept]
                after += [abs(k.after) for k in made.kept]
        print(f"contacts on {name}: {len(after)} spans in 80 s; mean gap {np.mean(before):.2f} mm, with contacts "
              f"{np.mean(after):.3f} mm (worst {np.max(after):.2f}); places where the mesh passes itself {crossed[0]}, then {crossed[1]}")  # fmt: skip


def speed() -> None:
    """Prints the evaluation of a sheet of 52 channels onto 120 targets."""
    rng = np.random.default_rng(1)
    targets = tuple(f"t{i}" for i in range(120))
    character = Character("Bench", (MeshTargets("face", targets),), None)
    matches = {t: {str(s): float(g) for s, g in zip(rng.choice(SHAPES, 3, replace=False), rng.uniform(0.2, 1, 3), strict=True)}
               for t in targets}  # fmt: skip
    sheet = parse_sheet({"matches": matches, "regionStrength": {"lips": 0.9}, "bend": {"jawOpen": 0.4},
                         "shapeOffset": {"jawOpen": 0.02}})  # fmt: skip
    values = rng.uniform(0, 1, (36_000, 52)).astype(np.float32)
    channels = Channels(SHAPES, values, Fraction(60))
    ours = median_ms(lambda: apply_sheet(channels, character, sheet))
    gains = rng.uniform(0, 1, (52, 120)).astype(np.float32)
    plain = median_ms(lambda: np.clip(values @ gains, 0, 1))
    print(f"sheet, 52 channels onto 120 targets, 36,000 frames: {ours:.0f} ms; the product and the limits alone "
          f"{plain:.0f} ms: ratio {ours / plain:.2f}")  # fmt: skip


def main() -> None:
    """Prints everything."""
    first, rigs = (int(a) for a in (*sys.argv[1:3], *(str(FIRST), str(RIGS))[len(sys.argv[1:3]) :]))
    by_name()
    by_shape(first, rigs)
    contacts(first)
    speed()


if __name__ == "__main__":
    main()
