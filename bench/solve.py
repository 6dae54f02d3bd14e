"""How well footage is solved: clips of heads, lights and performances that nothing was set on, against the truth.

`python -m bench.solve [--performers 201 202 203 204] [--workers 2]`: renders for each performer a range of motion, a
neutral head turn and test clips of 300 frames (six in all, two with a hand passing before the mouth), makes a card, solves,
and prints correlation and error beside the landmark library's own learned scores on the same clips; also what is made of another
turn of each face at rest, in which nothing moves but the head, and what is made of each clip without a card. Test heads are not the
solver's head: see dynaface/sims/footage/performer.py. The truth is read only after the solve.
"""

import argparse
import json
import time
from concurrent.futures import ProcessPoolExecutor
from dataclasses import dataclass, replace
from fractions import Fraction

import cv2
import numpy as np

from bench.scores import agreement_of, regions_right, tell_reliability
from dynaface.assets import ASSETS
from dynaface.core.curves.channels import Channels
from dynaface.core.curves.events import Event, blinks, closures
from dynaface.core.curves.known_runs import runs
from dynaface.core.shapes.regions import REGION, SHAPES_OF
from dynaface.core.shapes.standard import SHAPES
from dynaface.core.solve.clip import SURE
from dynaface.core.solve.confidence import COLUMNS
from dynaface.formats.entries import video
from dynaface.formats.head_file import general_head, landmark_places
from dynaface.pipelines.measure_lens import measure_lens
from dynaface.pipelines.solve_footage import (
    Samples,
    card_of_clip,
    find_landmarks,
    make_card,
    neutral_of_clip,
    solve_footage,
)
from dynaface.sims.footage.clip import random_setting, render
from dynaface.sims.footage.performer import make_performer
from dynaface.sims.footage.script import expressive, head_turn, range_of_motion
from dynaface.sims.speech import Phone

FRAMES, RATE = 300, Fraction(30)
PEAK = 0.25  # a shape counts in a clip when its truth gets this high
HAND = (120, 165)  # frames in which a hand is in the picture
LIPS = (
    61,
    146,
    91,
    181,
    84,
    17,
    314,
    405,
    321,
    375,
    291,
    409,
    270,
    269,
    267,
    0,
    37,
    39,
    40,
    185,
)  # landmarks of their outline
BEHIND = 0.1  # of the outline that is behind the hand where it is "before the mouth"
LIP_SHAPES = SHAPES_OF["lips"]
BLINKS = tuple(SHAPES.index(f"eyeBlink{side}") for side in ("Left", "Right"))


@dataclass(frozen=True)
class Outcome:
    """What one clip gave: values, truth, library scores, values and confidence without a card (frames, 52), head angles, confidence, frames in which
    a hand is before the lips.
    """

    name: str
    values: np.ndarray
    truth: np.ndarray
    scores: np.ndarray
    bare: np.ndarray
    bare_sure: np.ndarray
    angles: np.ndarray
    true_angles: np.ndarray
    sure: np.ndarray
    hidden: np.ndarray
    seconds: float


def one_thread() -> None:
    """Each worker keeps to one core: more threads than cores only wait for each other."""
    cv2.setNumThreads(1)


def performance(seed: int, number: int, frames: int) -> Channels:
    """What a performer does in a clip: a line that is spoken with expression."""
    lines = json.loads((ASSETS / "bench/speech/lines.json").read_text())
    phones = [Phone(**p) for p in lines[(seed + 5 * number) % len(lines)]["phones"]]
    made = expressive(frames / 30 + 0.1, seed * 10 + number, phones)
    return Channels(made.names, made.values[:frames], made.rate)


def performer_clips(seed: int, count: int) -> tuple[list[Outcome], np.ndarray, float]:
    """Renders and solves `count` clips of one performer: (what they gave, (frames, 52) what a turn of the face at rest gave, by which share
    the lens is measured too wide).
    """
    head = general_head()
    performer, setting = make_performer(head, seed), random_setting(seed)
    rom, named = range_of_motion(seed)
    film = {
        "rom": video.read(video.encode(render(performer, rom, setting, seed), RATE)),
        "turn": video.read(video.encode(render(performer, head_turn(seed), setting, seed + 1), RATE)),
    }
    samples = Samples(tuple(named["neutral"]), named["samples"])  # type: ignore[arg-type]
    turned = find_landmarks(film["turn"])
    lens = measure_lens(film["turn"], turned)
    card = make_card(film["rom"], samples, film["turn"], lens.fov, turned=turned)
    another = video.read(video.encode(render(performer, head_turn(seed + 500), setting, seed + 2), RATE))
    ghosts = solve_footage(another, card).channels.values[:, :52]
    lips_at = landmark_places().corners[list(LIPS)]
    out = []
    for number in range(count):
        truth = performance(seed, number, FRAMES)
        handed = number == 1
        shot = replace(setting, hands=(HAND,)) if handed else setting
        behind: list[bool] = []

        def watch(_screen: np.ndarray, hidden: np.ndarray, behind: list[bool] = behind) -> None:
            behind.append(bool(hidden[lips_at].any(axis=1).mean() >= BEHIND))

        clip = video.read(video.encode(render(performer, truth, shot, seed * 10 + number, watch), RATE))
        found = find_landmarks(clip)
        began = time.perf_counter()
        solved = solve_footage(clip, card, found=found)
        taken = time.perf_counter() - began
        alone = card_of_clip(clip, found, neutral_of_clip(clip, found))
        bare = solve_footage(clip, alone, found=found)
        scores = np.array([m.scores if m else np.zeros(len(SHAPES)) for m in found])
        out.append(
            Outcome(f"{seed}/{number}", solved.channels.values[:, :52], truth.values[:, :52], scores, bare.channels.values[:, :52], bare.confidence[:, :52],
                    solved.channels.values[:, 52:55], truth.values[:, 52:] - rom.values[: 27, 52:].mean(axis=0),
                    solved.confidence, np.array(behind), taken)
        )  # fmt: skip
    return out, ghosts, lens.fov / setting.fov - 1


def agreement(values: np.ndarray, truth: np.ndarray) -> dict[str, tuple[float, float, float]]:
    """shape -> (Pearson r, mean absolute error after the best gain and offset, raw) where the truth moves enough."""
    found = {}
    for column, shape in enumerate(SHAPES):
        x, t = values[:, column].astype(float), truth[:, column].astype(float)
        if shape == "tongueOut" or t.max() < PEAK:
            continue
        found[shape] = (*agreement_of(x, t), float(np.abs(x - t).mean()))
    return found


def mean_of(found: list[dict[str, tuple[float, float, float]]], region: str = "") -> tuple[float, float, float, int]:
    """Means over shapes and clips, of one region where it is named."""
    rows = np.array([v for f in found for s, v in f.items() if not region or REGION[s] == region])
    return (*rows.mean(axis=0), len(rows)) if len(rows) else (np.nan, np.nan, np.nan, 0)


def tell_ghosts(turns: list[np.ndarray]) -> None:
    """Prints which shapes faces at rest are said to make as they turn; turns: (frames, 52) each."""
    most = np.max([t.max(axis=0) for t in turns], axis=0)
    first = ", ".join(f"{SHAPES[i]} {most[i]:.2f}" for i in np.argsort(-most)[:6])
    print(f"ghosts of a neutral turn: largest {most.max():.2f}, mean of the largest in each frame "
          f"{np.mean([t.max(axis=1).mean() for t in turns]):.3f}; {first}")  # fmt: skip


def tell(outcomes: list[Outcome]) -> None:
    """Prints the figures."""
    ours = [agreement(o.values, o.truth) for o in outcomes]
    theirs = [agreement(o.scores, o.truth) for o in outcomes]
    for outcome, a, b in zip(outcomes, ours, theirs, strict=True):
        (r, mae, raw, n), (r2, mae2, _, _) = mean_of([a]), mean_of([b])
        hand = " with a hand" if outcome.hidden.any() else ""
        print(f"clip {outcome.name}{hand}: r {r:.3f}, MAE {mae:.4f} (raw {raw:.4f}) over {n} shapes; "
              f"library scores r {r2:.3f}, MAE {mae2:.4f}; {FRAMES / outcome.seconds:.1f} frames/s after tracking")  # fmt: skip
    for region in ("", *dict.fromkeys(REGION[s] for s in SHAPES if s != "tongueOut")):
        (r, mae, raw, n), (r2, mae2, _, _) = mean_of(ours, region), mean_of(theirs, region)
        print(
            f"{region or 'all':8s} r {r:.3f}  MAE {mae:.4f}  raw {raw:.4f}  n {n:3d}   library r {r2:.3f}  MAE {mae2:.4f}"
        )
    alone = [agreement(o.bare, o.truth) for o in outcomes]
    r, mae, raw, _ = mean_of(alone)
    print(f"without a card: r {r:.3f}, MAE {mae:.4f} (raw {raw:.4f});", ", ".join(
        f"{region} {mean_of(alone, region)[0]:.3f}" for region in dict.fromkeys(REGION[s] for s in SHAPES if s != "tongueOut")))  # fmt: skip
    by_shape: dict[str, list[float]] = {}
    for found in ours:
        for shape, values in found.items():
            by_shape.setdefault(shape, []).append(values[0])
    ranked = sorted(by_shape, key=lambda s: float(np.mean(by_shape[s])))
    print("by shape, worst first:", ", ".join(f"{s} {np.mean(by_shape[s]):.2f}" for s in ranked))
    known = np.concatenate([o.sure[:, -1] > 0 for o in outcomes])
    error = np.concatenate([o.angles - o.true_angles for o in outcomes])
    print("head angles, RMS error in degrees (turn, nod, tilt):", np.sqrt((error[known] ** 2).mean(axis=0)).round(2),
          f"in the {known.mean():.0%} of frames in which a face was found")  # fmt: skip
    lids = [(eye(o, o.values, k), eye(o, o.truth, k), o.values[:, k]) for o in outcomes for k in BLINKS]
    found, true = sum(len(v) for v, _, _ in lids), sum(len(t) for _, t, _ in lids)
    print(f"blinks within 1 frame: recall {sum(meets(e, v) for v, t, _ in lids for e in t) / max(true, 1):.2f} of {true}, "
          f"precision {sum(meets(e, t) for v, t, _ in lids for e in v) / max(found, 1):.2f} of {found}; height "
          f"{np.median([curve[e.peak] / e.height for _, t, curve in lids for e in t]):.2f} of the true (median)")  # fmt: skip
    shut = [(lips(o.values, o.hidden), lips(o.truth, o.hidden)) for o in outcomes]
    found, true = sum(len(v) for v, _ in shut), sum(len(t) for _, t in shut)
    hits = sum(meets(e, v) for v, t in shut for e in t)
    print(f"lip closures within 1 frame: recall {hits / max(true, 1):.2f} of {true}, precision "
          f"{sum(meets(e, t) for v, t in shut for e in v) / max(found, 1):.2f} of {found}")  # fmt: skip
    unsure = np.concatenate([lips_unsure(o) for o in outcomes])
    hidden = np.concatenate([o.hidden for o in outcomes])
    hit = (unsure & hidden).sum()
    print(f"hand before the mouth, marked unsure: recall {hit / max(hidden.sum(), 1):.2f}, precision {hit / max(unsure.sum(), 1):.2f} "
          f"by frame ({hidden.sum()} hidden)")  # fmt: skip
    tell_confidence("with the card", [(o.values, o.sure, o.truth) for o in outcomes])
    tell_confidence("without a card", [(o.bare, o.bare_sure, o.truth) for o in outcomes])
    for o in outcomes:
        spans = [f"{a}..{b - 1}" for a, b in runs(lips_unsure(o) & ~o.hidden)]
        if spans:
            print(f"  marked unsure without a hand in {o.name}: {', '.join(spans)}")


def tell_confidence(title: str, solves: list[tuple[np.ndarray, np.ndarray, np.ndarray]]) -> None:
    """Prints how well the confidence of solves holds: (values, confidence, truth), each (frames, 52 or more)."""
    said = {r: np.concatenate([sure[:, own].max(axis=1) for _, sure, _ in solves]) for r, own in COLUMNS.items()}
    right = [regions_right(values, truth) for values, _, truth in solves]
    tell_reliability(title, said, {r: np.concatenate([one[r] for one in right]) for r in COLUMNS})


def eye(outcome: Outcome, curves: np.ndarray, column: int) -> list[Event]:
    """Blinks of one eye where a face was found, as the product itself finds them on any curves."""
    return [e for e in blinks(curves[:, column], float(RATE)) if outcome.sure[e.peak, -1] > 0]


def lips(values: np.ndarray, hidden: np.ndarray) -> list[Event]:
    """Lip closures of curves (frames, 52) where no hand hides the lips, as the product itself finds them on any curves."""
    return [e for e in closures(Channels(SHAPES, values.astype(np.float32), RATE)) if not hidden[e.peak]]


def meets(event: Event, others: list[Event]) -> bool:
    """Whether the moment of a blink or closure lies within another, or their moments are at most a frame apart."""
    return any(abs(event.peak - o.peak) <= 1 or o.first <= event.peak <= o.last for o in others)


def lips_unsure(outcome: Outcome) -> np.ndarray:
    """(frames,) True where the lips as a whole are marked unsure."""
    return outcome.sure[:, LIP_SHAPES].mean(axis=1) < SURE


def main() -> None:
    """Command line."""
    parser = argparse.ArgumentParser(description=__doc__, formatter_class=argparse.RawDescriptionHelpFormatter)
    parser.add_argument("--performers", type=int, nargs="+", default=[201, 202, 203, 204])
    parser.add_argument("--workers", type=int, default=2)
    options = parser.parse_args()
    counts = [2 if i < 2 else 1 for i in range(len(options.performers))]
    with ProcessPoolExecutor(options.workers, initializer=one_thread) as pool:
        made = list(pool.map(performer_clips, options.performers, counts))
    tell([o for outcomes, _, _ in made for o in outcomes])
    tell_ghosts([ghosts for _, ghosts, _ in made])
    print("lens, measured from the head turn: off by", ", ".join(f"{off:+.1%}" for _, _, off in made))


if __name__ == "__main__":
    main()
