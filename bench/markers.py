"""How well optical markers are solved: `python -m bench.markers [first seed] [performers]`, against truth that the solver never sees.

Performers are not the solver's head (dynaface/sims/footage/performer.py); stages are made by dynaface/sims/optical_stage.py. Where the
eyes look is told apart from the other shapes, the tongue is left out. Speed is that of a whole take, against
scipy.optimize.lsq_linear frame by frame in the same run.
"""

import sys
import time

import numpy as np
from scipy.optimize import lsq_linear

from bench.scores import agreement_of
from dynaface.core.curves.channels import Channels
from dynaface.core.curves.rerate import at_rate
from dynaface.core.markers.basis import MarkerBasis
from dynaface.core.markers.chart import MARKS, with_irises
from dynaface.core.markers.layout import Layout
from dynaface.core.markers.mend import Mended
from dynaface.core.markers.propose_layout import propose_layout
from dynaface.core.markers.solve import solve_markers
from dynaface.core.markers.take import MarkerTake
from dynaface.core.shapes.standard import SHAPES
from dynaface.formats.head_file import general_head, landmark_places
from dynaface.pipelines.solve_markers import basis_of, fixed_labels, general_chart, solve_with
from dynaface.sims.careless_stage import FRAMES, careless_take
from dynaface.sims.footage.performer import Performer, make_performer
from dynaface.sims.footage.script import expressive, range_of_motion
from dynaface.sims.optical_stage import ORIGIN, RATE, Stage, capture, usual_places

FIRST, PERFORMERS, SECONDS = 501, 4, 5.0  # seeds that nothing was tuned on
PEAK = 0.25
LAYOUT = Layout({n: n for n in MARKS})
TAKES = 20  # that are put on without care


def agreement(values: np.ndarray, truth: np.ndarray, looks: bool = False) -> list[tuple[float, float]]:
    """(Pearson r, mean absolute error after the best gain and offset) of each shape whose truth peaks at PEAK: of where the
    eyes look, or of all others.
    """
    out = []
    for i, shape in enumerate(SHAPES):
        if shape == "tongueOut" or shape.startswith("eyeLook") != looks or truth[:, i].max() < PEAK:
            continue
        out.append(agreement_of(values[:, i], truth[:, i]))
    return out


def told(name: str, scores: list[list[tuple[float, float]]]) -> None:
    """Prints the mean over shapes and performers."""
    flat = np.array([s for one in scores for s in one])
    print(f"{name}: r {flat[:, 0].mean():.3f}, MAE {flat[:, 1].mean():.4f}")


def looking(truth: Channels) -> Channels:
    """The same performance with eyes that wander, both the same way."""
    values, t = truth.values.copy(), np.arange(truth.frames) / float(truth.rate)
    aside, up = 0.7 * np.sin(1.9 * t), 0.6 * np.sin(1.3 * t + 1)
    ways = {
        "OutLeft": aside,
        "InRight": aside,
        "InLeft": -aside,
        "OutRight": -aside,
        "UpLeft": up,
        "UpRight": up,
        "DownLeft": -up,
        "DownRight": -up,
    }
    for way, amount in ways.items():
        values[:, SHAPES.index(f"eyeLook{way}")] = np.clip(amount, 0, 1)
    return Channels(truth.names, values, truth.rate)


def true_basis(performer: Performer) -> MarkerBasis:
    """The performer's own markers and shapes, as nobody knows them on a stage."""
    places, at = with_irises(performer.head, landmark_places()), list(MARKS.values())
    shapes = np.stack([places.on(performer.pose(row) - performer.points)[at] for row in np.eye(len(SHAPES))])
    return MarkerBasis(tuple(MARKS), places.on(performer.points)[at], shapes, (np.eye(3), -ORIGIN))


def shoot(performer: Performer, what: Channels, stage: Stage, seed: int) -> MarkerTake:
    """A take of the whole chart on the stage."""
    return capture(performer, landmark_places(), MARKS, what, stage, seed)


def repaired(rough: MarkerTake, clean: MarkerTake, mended: Mended) -> tuple[float, float, float]:
    """(share of samples under a wrong name that were put right, of sound samples that were spoilt, RMS millimetres of what was
    filled in). clean: the same take without swaps and gaps, to the last digit.
    """
    index = [rough.labels.index(label) for label in mended.take.labels]
    was, true, now = rough.points[:, index], clean.points[:, index], mended.take.points
    seen = np.isfinite(was[..., 0])
    wrong = seen & (np.abs(np.nan_to_num(was - true)).max(axis=2) > 1e-9)
    right = np.abs(np.nan_to_num(now - true, nan=1.0)).max(axis=2) < 1e-9
    filled = np.linalg.norm(mended.filled - true, axis=2)[mended.gaps & ~seen] * 1000
    return (
        float(right[wrong].mean()),
        float((~right & seen & ~wrong).sum() / seen.sum()),
        float(np.sqrt((filled**2).mean())),
    )


def careless(first: int) -> None:
    """Places proposed for markers that miss theirs by 2 mm on heads that are bent, beside 0 to 8 markers on neck, collar and shoulders."""
    shares = []
    for number in range(TAKES):
        take = careless_take(first + 100 + number, number % 9)
        proposed = propose_layout(take, general_chart(), (0, FRAMES - 1))
        shares.append(sum(label == place for label, place in proposed.places.items()) / len(usual_places()))
    print(f"places of {TAKES} careless takes proposed right: mean {np.mean(shares):.3f}, least {min(shares):.3f}")


def speed() -> None:
    """Frames a second of a whole take's solve, smooth in time, against each frame's bounded least squares by itself."""
    performer = make_performer(general_head(), FIRST)
    acted = at_rate(expressive(SECONDS + 0.1, FIRST), RATE)
    basis = true_basis(performer)
    take = shoot(performer, acted, Stage(), FIRST)
    solve_markers(take, basis, fixed_labels(LAYOUT), basis.neutral + ORIGIN)
    began = time.perf_counter()
    made = solve_markers(take, basis, fixed_labels(LAYOUT), basis.neutral + ORIGIN)
    taken = (time.perf_counter() - began) / take.frames
    rows = basis.shapes.reshape(len(SHAPES), -1).T * 1000
    targets = [rows @ w for w in made.weights[:: take.frames // 20]]
    began = time.perf_counter()
    for target in targets:
        lsq_linear(rows, target, (0, 1))
    library = (time.perf_counter() - began) / len(targets)
    print(f"solve of {take.frames} frames of {len(take.labels)} markers with the head taken out, in three rounds of belief: {1 / taken:.0f} frames/s, "
          f"{library / taken:.0f} times lsq_linear on each frame once")  # fmt: skip


def main() -> None:
    """Prints everything."""
    first, count = (int(a) for a in (*sys.argv[1:3], *(str(FIRST), str(PERFORMERS))[len(sys.argv[1:3]) :]))
    scores: dict[str, list[list[tuple[float, float]]]] = {}
    right = placed = 0
    exact = []
    repairs: list[tuple[float, float, float]] = []
    for seed in range(first, first + count):
        performer = make_performer(general_head(), seed)
        rom, named = range_of_motion(seed)
        rom = at_rate(rom, RATE)
        acted = at_rate(expressive(SECONDS + 0.1, seed * 10), RATE)
        truth = Channels(acted.names, acted.values[: round(SECONDS * 120)], RATE)
        basis = true_basis(performer)
        for noise in (0.0, 0.0002, 0.0005):
            take = shoot(performer, truth, Stage(noise, additive=True), seed)
            made = solve_markers(take, basis, fixed_labels(LAYOUT), basis.neutral + ORIGIN).channels.values
            scores.setdefault(f"true basis, {noise * 1000:g} mm", []).append(agreement(made, truth.values))
            if noise == 0:
                seen = basis.reported
                exact.append(np.median(np.abs(made[:, :52] - truth.values[:, :52])[:, seen]))
        frame = {s: round(f * float(RATE) / 30) for s, f in named["samples"].items()}  # type: ignore[attr-defined]
        still = tuple(round(f * float(RATE) / 30) for f in named["neutral"])  # type: ignore[attr-defined]
        layout = Layout(LAYOUT.places, still)
        for noise in (0.0002, 0.0005):
            day = shoot(performer, rom, Stage(noise, spare=4), seed + 1)
            proposed = propose_layout(day, general_chart(), layout.neutral)
            right += sum(label == place for label, place in proposed.places.items())
            placed += len(MARKS)
            plain, sampled = basis_of(day, layout), basis_of(day, layout, frame)
            for rough in (False, True):
                stage = Stage(noise, gaps=0.05 if rough else 0.0, swaps=4 if rough else 0, spare=4)
                take = shoot(performer, truth, stage, seed + 2)
                for name, (used, neutral) in (("neutral frame", plain), ("neutral frame and samples", sampled)):
                    solved, mended = solve_with(take, used, layout, day, neutral)
                    made = solved.channels.values
                    if rough and used is sampled[0]:
                        clean = shoot(performer, truth, Stage(noise, spare=4), seed + 2)
                        repairs.append(repaired(take, clean, mended))
                    key = f"{name}, {noise * 1000:g} mm" + (", 5% gaps and 4 swaps" if rough else "")
                    scores.setdefault(key, []).append(agreement(made, truth.values))
            looked = shoot(performer, looking(truth), Stage(noise, spare=4), seed + 3)
            made = solve_with(looked, sampled[0], layout, day, sampled[1])[0].channels.values
            key = f"gaze by irises, neutral frame and samples, {noise * 1000:g} mm"
            scores.setdefault(key, []).append(agreement(made, looking(truth).values, looks=True))
    for name in sorted(scores):
        told(name, scores[name])
    careless(first)
    speed()
    mean = np.mean(repairs, axis=0)
    print(
        f"changed names put right: {mean[0]:.1%} of their samples; sound samples spoilt {mean[1]:.2%}; gaps filled to {mean[2]:.2f} mm RMS"
    )
    print(
        f"noise-free with the true basis: median error {np.median(exact):.1e}; places proposed right {right / placed:.3f}"
    )


if __name__ == "__main__":
    main()
