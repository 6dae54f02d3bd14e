"""How well confidence holds, and the chances that it is worked out from: clips of made performers that the solver was developed on.

`python -m bench.confidence [--performers 31 32 ...] [--workers 2]`: solves a clip of each with its card, without one, with a hand passing
before the mouth and with the card of another of them; prints the chances fitted to all of them (the table of
`dynaface/core/solve/confidence.py`), then how well the chances that are fitted to all but one performer hold for that one. `bench.solve` prints
how the table holds for performers that nothing was fitted to.
"""

import argparse
from collections.abc import Mapping
from concurrent.futures import ProcessPoolExecutor
from dataclasses import dataclass, replace

import numpy as np
from scipy.optimize import minimize

from bench.scores import regions_right, tell_reliability
from bench.solve import RATE, one_thread, performance
from dynaface.core.curves.channels import Channels
from dynaface.core.solve.card import PerformerCard
from dynaface.core.solve.confidence import COLUMNS, Chance, chances, cues
from dynaface.core.track.footage import Footage
from dynaface.formats.entries import video
from dynaface.formats.head_file import general_head
from dynaface.pipelines.solve_footage import (
    Found,
    Samples,
    card_of_clip,
    find_landmarks,
    finish_footage,
    make_card,
    measure_footage,
    neutral_of_clip,
)
from dynaface.sims.footage.clip import random_setting, render
from dynaface.sims.footage.performer import make_performer
from dynaface.sims.footage.script import head_turn, range_of_motion

PERFORMERS = (31, 32, 33, 34, 51, 52, 53, 54)
FRAMES, HAND = 180, (60, 105)
RIDGE = 20.0  # against chances that hang on one performer: in frames, for a cue of its own spread


@dataclass(frozen=True)
class Filmed:
    """A performer's card, a clip and the same with a hand, and the truth (frames, 52) of both."""

    card: PerformerCard
    plain: bytes
    handed: bytes
    truth: np.ndarray


@dataclass(frozen=True)
class ClipSolve:
    """What one solve gives: cues and what was right, by region."""

    seed: int
    cues: dict[str, np.ndarray]
    right: dict[str, np.ndarray]


def film(seed: int) -> Filmed:
    """Renders a performer's clips and makes the card."""
    performer, setting = make_performer(general_head(), seed), random_setting(seed)
    rom, named = range_of_motion(seed)

    def shown(values: Channels, number: int, hands: tuple[tuple[int, int], ...] = ()) -> bytes:
        return video.encode(render(performer, values, replace(setting, hands=hands), number), RATE)

    truth = performance(seed, 0, FRAMES)
    samples = Samples(tuple(named["neutral"]), named["samples"])  # type: ignore[arg-type]
    card = make_card(video.read(shown(rom, seed)), samples, video.read(shown(head_turn(seed), seed + 1)), setting.fov)
    return Filmed(card, shown(truth, seed * 10), shown(truth, seed * 10, (HAND,)), truth.values[:, :52])


def solve_all_ways(seed: int, own: Filmed, other: PerformerCard) -> list[ClipSolve]:
    """A performer's clips solved in all ways."""
    plain, handed = video.read(own.plain), video.read(own.handed)
    found = find_landmarks(plain)
    alone = card_of_clip(plain, found, neutral_of_clip(plain, found))
    ways = [
        (plain, found, own.card),
        (plain, found, alone),
        (plain, found, other),
        (handed, find_landmarks(handed), own.card),
    ]
    return [_solve_with(seed, clip, marks, card, own.truth) for clip, marks, card in ways]


def _solve_with(seed: int, clip: Footage, found: Found, card: PerformerCard, truth: np.ndarray) -> ClipSolve:
    measured = measure_footage(clip, found, card, 0, clip.frames - 1)
    values = finish_footage(clip, card, measured, 0).channels.values[:, :52].astype(float)
    return ClipSolve(
        seed, cues(values, measured.weights, measured.sure, card.solved, card.sampled), regions_right(values, truth)
    )


def fitted(solves: list[ClipSolve]) -> dict[str, Chance]:
    """The chances of each region that explain what was right best; no cue but samples makes a region likelier."""
    out = {}
    for region in COLUMNS:
        x = np.concatenate([s.cues[region] for s in solves])
        y = np.concatenate([s.right[region] for s in solves]).astype(float)
        spread = np.r_[1.0, x[:, 1:].std(axis=0) + 1e-6]
        z = x / spread

        def miss(w: np.ndarray, z: np.ndarray = z, y: np.ndarray = y) -> tuple[float, np.ndarray]:
            logit, held = z @ w, np.r_[0.0, w[1:]]
            return float((np.logaddexp(0, logit) - y * logit).sum() + RIDGE * held @ held), z.T @ (
                1 / (1 + np.exp(-logit)) - y
            ) + 2 * RIDGE * held

        bounds = [(None, None), *[(None, 0.0)] * (x.shape[1] - 2), (0.0, None)]
        found = minimize(miss, np.zeros(x.shape[1]), jac=True, method="L-BFGS-B", bounds=bounds).x / spread
        out[region] = Chance(*found.round(2).tolist())
    return out


def tell_left_out(solves: list[ClipSolve]) -> None:
    """Prints how well chances that are fitted to all but one performer hold for that one."""
    said: dict[str, list[np.ndarray]] = {r: [] for r in COLUMNS}
    right: dict[str, list[np.ndarray]] = {r: [] for r in COLUMNS}
    for seed in {s.seed for s in solves}:
        table: Mapping[str, Chance] = fitted([s for s in solves if s.seed != seed])
        for one in (s for s in solves if s.seed == seed):
            for region, likely in chances(one.cues, table).items():
                said[region].append(likely)
                right[region].append(one.right[region])
    joined = [{r: np.concatenate(v) for r, v in part.items()} for part in (said, right)]
    tell_reliability("of each by the others", joined[0], joined[1])


def main() -> None:
    """Command line."""
    parser = argparse.ArgumentParser(description=__doc__, formatter_class=argparse.RawDescriptionHelpFormatter)
    parser.add_argument("--performers", type=int, nargs="+", default=list(PERFORMERS))
    parser.add_argument("--workers", type=int, default=2)
    options = parser.parse_args()
    if len(options.performers) < 2:
        parser.error("at least two performers are needed: each is solved with the card of another, too")
    with ProcessPoolExecutor(options.workers, initializer=one_thread) as pool:
        films = list(pool.map(film, options.performers))
        others = [f.card for f in [*films[1:], films[0]]]
        solves = [s for group in pool.map(solve_all_ways, options.performers, films, others) for s in group]
    for region, chance in fitted(solves).items():
        print(f'    "{region}": {chance},')
    tell_left_out(solves)


if __name__ == "__main__":
    main()
