"""What "Tidy it" brings, on takes with faults and known truth: `python -m bench.tidy_it`.

Takes have noise, bursts, spikes, dropped frames, lids out of step and drift. Nothing was set on these seeds. A blink or
lip closure is lost when the take as it came shows it (within 2 frames of the truth) and the tidied one does not.
"""

import numpy as np

from dynaface.core.curves.channels import Channels
from dynaface.core.curves.events import Event, blinks, closures
from dynaface.core.shapes.standard import SHAPES
from dynaface.core.snags.propose import propose
from dynaface.core.tidy.stack import evaluate, parse_stack
from dynaface.sims.faults import break_take, drop_frames
from dynaface.sims.long_take import long_take

KINDS = ("jitter burst", "spike", "lids out of step", "drift")
NEAR = 2


def error(given: Channels, truth: Channels) -> float:
    """RMS over the 52 shapes, on frames that both have."""
    frames = min(given.frames, truth.frames)
    columns = [truth.names.index(n) for n in SHAPES]
    apart = given.values[:frames, columns].astype(np.float64) - truth.values[:frames, columns]
    return float(np.sqrt(np.nanmean(apart**2)))


def events(channels: Channels, ease: float = 1.0) -> dict[str, list[Event]]:
    """Blinks of each lid and lip closures."""
    rate = float(channels.rate)
    found = {n: blinks(channels.column(n), rate) for n in ("eyeBlinkLeft", "eyeBlinkRight")}
    return {**found, "lips": closures(channels, ease)}


def shows(found: list[Event], event: Event, name: str) -> bool:
    """Whether an event of the truth is among those found: a blink by its peak, a closure (which is held) by its span."""
    if name == "lips":
        return any(f.first - NEAR <= event.peak <= f.last + NEAR for f in found)
    return any(abs(f.peak - event.peak) <= NEAR for f in found)


def lost(truth: Channels, before: Channels, after: Channels) -> tuple[int, int]:
    """(events of the truth that the take as it came shows, how many of them the tidied one does not)."""
    # A hair less open beside a closure is no loss of it: it counts as kept with a little less on both sides.
    real, came, kept = events(truth), events(before), events(after, 0.75)
    there = [(name, event) for name in real for event in real[name] if shows(came[name], event, name)]
    return len(there), sum(not shows(kept[name], event, name) for name, event in there)


def run(seed: int, noise: float) -> tuple[float, float, int, int, int]:
    """(error as it came, error tidied, events, events lost, steps) of one take."""
    truth, voice, phones = long_take(seed, 5)
    damaged, _, _ = break_take(truth, voice, phones, KINDS, seed + 5, noise)
    recording = drop_frames(damaged, seed + 9)
    came = evaluate(recording, ())
    made = propose(recording, voice)
    tidied = evaluate(recording, parse_stack({"dynafaceStack": 1, "steps": list(made.steps)}))
    return (error(came, truth), error(tidied, truth), *lost(truth, came, tidied), len(made.steps))


def main(seeds: range = range(8100, 8112)) -> None:
    """Prints each take, then all."""
    rows = []
    for seed in seeds:
        noise = (0.005, 0.01, 0.015)[seed % 3]
        before, after, there, gone, steps = run(seed, noise)
        rows.append((before, after, there, gone))
        print(f"seed {seed}, noise {noise}: RMS {before:.4f} -> {after:.4f} ({after / before:.2f}), {steps} steps, "
              f"{gone} of {there} blinks and closures lost")  # fmt: skip
    table = np.array(rows)
    print(f"all: error {np.sqrt((table[:, 1] ** 2).sum() / (table[:, 0] ** 2).sum()):.2f} of what it was, median "
          f"{np.median(table[:, 1] / table[:, 0]):.2f}, worst {np.max(table[:, 1] / table[:, 0]):.2f} (target at most 0.50); "
          f"{int(table[:, 3].sum())} of {int(table[:, 2].sum())} events lost (target 0)")  # fmt: skip


if __name__ == "__main__":
    main()
