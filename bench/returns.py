"""Bringing back: what is found of made edits, what is wrongly found, and how near a layer of it comes to what came back.

    python -m bench.returns

Odile, Brindle and Kettle speak for 400 frames. Each is handed over in each form and brought back as it is, then with edits that are known (three shapes or channels
and, where there are joints, two of them and the way of the hips, for 10 to 60 frames each) and written as another program would: under a prefix, with z up in
another unit, cut, at another rate, with a rest frame before.
"""

import time
from collections.abc import Callable
from dataclasses import dataclass, field, replace
from fractions import Fraction

import numpy as np

from dynaface.assets import ASSETS
from dynaface.core.body.rotations import about, multiply
from dynaface.core.cast.sheet import CastSheet
from dynaface.core.curves.channels import Channels
from dynaface.core.handover.asked import asked
from dynaface.core.handover.delivery import Delivery, Figure
from dynaface.core.handover.options import HandoverOptions
from dynaface.core.layers.layer import apply_layer
from dynaface.core.perform.perform import Performance, perform_take
from dynaface.core.returns.brought import Brought
from dynaface.core.returns.compare import differences
from dynaface.core.returns.put_right import put_right
from dynaface.core.returns.returned_layer import Axes, Clock, beneath_of, returned_layer
from dynaface.formats.catalogue import HANDOVERS
from dynaface.formats.character_file import open_character
from dynaface.formats.returned import read_returned
from dynaface.sims.actor import act
from dynaface.sims.moment import spoken_lines

FRAMES, RATE = 400, 120
FORMS = ("gltf", "usd", "bvh", "curve table")
PLAIN = HandoverOptions()
Known = dict[str, tuple[int, int]]


def played(name: str, seed: int) -> Figure:
    """A character that speaks and walks."""
    seconds = FRAMES / RATE
    _, phones = spoken_lines(seconds, np.random.default_rng(seed))
    face = act(phones, seconds, seed)
    face = Channels(face.names, face.values[:FRAMES], face.rate)
    rig, _, raw = open_character((ASSETS / f"characters/{name}.glb").read_bytes(), f"{name}.glb")
    made = perform_take(face, rig, CastSheet())
    if rig.skeleton is not None:
        way = np.linspace(0, 1.0, FRAMES)[:, None] * [0.3, 0.0, 1.0]
        made = replace(made, root=way.astype(np.float32), root_joint=rig.skeleton.names[0])
    return Figure(name, made, raw, rig.skeleton)


def edited(figure: Figure, rng: np.random.Generator) -> tuple[Figure, Known]:
    """The figure with edits, and what they are: name -> (first, last) frame."""
    made, known = figure.performance, Known()
    weights, values, local = made.cast.weights.copy(), made.channels.values.copy(), made.local.astype(np.float64)

    def stretch(name: str) -> np.ndarray:
        length = int(rng.integers(10, 61))
        first = int(rng.integers(5, FRAMES - length - 5))
        known[name] = first, first + length - 1
        wave = np.zeros(FRAMES)
        wave[first : first + length] = 0.3 + 0.7 * np.sin(np.linspace(0, np.pi, length))
        return wave

    for target in (
        rng.choice(made.cast.targets, min(3, len(made.cast.targets)), replace=False) if made.cast.targets else ()
    ):
        weights[:, made.cast.targets.index(target)] += 0.3 * stretch(str(target))
    for channel in rng.choice(made.channels.names[:50], 3, replace=False):
        values[:, made.channels.names.index(channel)] += 0.3 * stretch(f"channel {channel}")
    for joint in rng.choice(made.joints, min(2, len(made.joints)), replace=False):
        turn = about(str(rng.choice(list("xyz"))), 20.0 * stretch(f"joint {joint}"))
        local[:, made.joints.index(joint)] = multiply(local[:, made.joints.index(joint)], turn)
    root = made.root.astype(np.float64)
    if made.root_joint:
        root = root + stretch(f"way {made.root_joint}")[:, None] * [0.08, 0.0, 0.0]
    other = replace(made, cast=replace(made.cast, weights=weights), local=local.astype(np.float32), root=root.astype(np.float32),
                    channels=replace(made.channels, values=values))  # fmt: skip
    return replace(figure, performance=other), known


def file_of(form: str, figure: Figure, options: HandoverOptions = PLAIN, **settings: str) -> Brought:
    """A figure as the form writes it, read again."""
    own = replace(figure, performance=asked(figure.performance, figure.skeleton, options))
    files = HANDOVERS[form].write(
        Delivery(figure.name, (own,), options), HANDOVERS[form].complete(settings), lambda part, message: None
    )
    data = next(d for n, d in files.items() if n.endswith(HANDOVERS[form].ending))
    return next(iter(read_returned(data, f"file{HANDOVERS[form].ending}", Fraction(RATE)).values()))


def lying(form: str, figure: Figure) -> Brought:
    """With z up where the form has that, in another unit."""
    units = {"usd": {"up": "z", "units": "centimetres"}, "bvh": {"up": "z", "units": "metres"}}
    return file_of(form, figure, **units.get(form, {}))


MESSES: dict[str, Callable[[str, Figure], Brought]] = {
    "as it is": lambda form, figure: file_of(form, figure),
    "under a prefix": lambda form, figure: file_of(form, figure, HandoverOptions(prefix="rig_")),
    "z up, another unit": lying,
    "cut": lambda form, figure: file_of(form, figure, HandoverOptions(first=3)),
    "at half the rate": lambda form, figure: replace((b := file_of(form, figure)).at(np.arange(0.0, b.frames, 2)), rate=Fraction(RATE, 2)),
    "a rest frame before": lambda form, figure: file_of(form, figure, HandoverOptions(rest=True)),
}  # fmt: skip


@dataclass
class Score:
    """found, missed, wrong: edits; ends: frames by which their ends are off; left: how far the layer is from what came back, of the full range."""

    found: int = 0
    missed: int = 0
    wrong: int = 0
    ends: list[float] = field(default_factory=list)
    left: list[float] = field(default_factory=list)
    seconds: float = 0.0


def expected(form: str, known: Known, made: Performance) -> Known:
    """What of the edits a file of the form can hold."""
    kinds = {"curve table": ("channel ",), "bvh": ("joint ", "way ")}.get(form, ("joint ", "way ", ""))
    out = Known()
    for name, run in known.items():
        kind, _, rest = name.rpartition(" ") if name.startswith(("channel ", "joint ", "way ")) else ("", "", name)
        if f"{kind} ".lstrip() in kinds or (kind == "" and "" in kinds):
            out[rest if kind else name] = (
                run if rest not in out else (min(run[0], out[rest][0]), max(run[1], out[rest][1]))
            )
    return out


def compare(score: Score, other: Brought, base: Brought, wanted: Known) -> None:
    """Adds one comparison to a score."""
    begun = time.perf_counter()
    righted = put_right(other, base)
    found = differences(righted)
    score.seconds += time.perf_counter() - begun
    names = {d.of for d in found}
    known = {n if n in base.names else n.replace(" ", "_") for n in wanted}
    score.found, score.missed, score.wrong = score.found + len(names & known), score.missed + len(known - names), score.wrong + len(names - known)  # fmt: skip
    clock = Clock(righted.at, base.rate, 0.0, base.rate, base.frames)
    for name, (first, last) in wanted.items():
        runs = [r for d in found if d.of in (name, name.replace(" ", "_")) for r in clock.runs(d)]
        if runs:
            score.ends.append(max(abs(min(a for a, _ in runs) - first), abs(max(b for _, b in runs) - last)))
    beneath = beneath_of(base, found, Axes(base.rest))
    made = apply_layer(beneath, returned_layer(found, clock, beneath, Axes(base.rest)))
    for one in found:
        if one.part in ("weight", "channel"):
            name = made.names[[n.removeprefix("target ") for n in made.names].index(one.of)]
            meant = base.curves[one.of] + np.interp(np.arange(base.frames), righted.at, one.by)
            score.left.append(float(np.nanmax(np.abs(made.column(name) - meant))))


def main() -> None:
    """Prints a line a form and a line a mess."""
    figures = {name: played(name, seed) for seed, name in enumerate(("odile", "brindle", "kettle"), 3)}
    forms, messes, same = {f: Score() for f in FORMS}, {m: Score() for m in MESSES}, 0
    rng = np.random.default_rng(7)
    for form in FORMS:
        for figure in figures.values():
            base = file_of(form, figure)
            same += len(differences(put_right(file_of(form, figure), base)))
            for mess, write in MESSES.items():
                changed, known = edited(figure, rng)
                wanted, other = expected(form, known, figure.performance), write(form, changed)
                for score in (forms[form], messes[mess]):
                    compare(score, other, base, wanted)
    print(f"brought back as it is: {same} differences in {len(FORMS) * len(figures)} files (wanted 0)")
    for name, score in {**forms, **messes}.items():
        left = f", a layer of it within {max(score.left):.1e}" if score.left else ""
        print(f"{name}: {score.found} of {score.found + score.missed} edits found, {score.wrong} wrongly, ends off by {np.median(score.ends):.0f} frames (most {max(score.ends):.0f}){left}; {score.seconds:.2f} s")  # fmt: skip


if __name__ == "__main__":
    main()
