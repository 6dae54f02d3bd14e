"""How well the sync offset is found: made takes of other lines, seeds and noise than anything was set on.

`python -m bench.lip_sync`. A take is right when the estimate is within one frame at 30 fps of the offset it was made
with; only takes that the estimate calls confident count for the share, and how many those are is printed too.
"""

import numpy as np

from dynaface.core.clock.rates import parse_rate
from dynaface.core.clock.timecode import Timecode
from dynaface.core.sound.sound import Sound
from dynaface.core.sync.lips_to_sound import estimate
from dynaface.core.tidy.stack import evaluate
from dynaface.formats.entries import wav
from dynaface.formats.entries.curve_table import read_table
from dynaface.sims.actor import act
from dynaface.sims.moment import FOLDER, lines_of_speech
from dynaface.sims.phone import late_sound, record
from dynaface.sims.speech import Phone


def main() -> None:
    """Prints a line a noise level and the total."""
    lines = lines_of_speech()
    rng = np.random.default_rng(77)
    rows = []
    for noise in (0.0, 0.02, 0.06):
        for number, line in enumerate(lines):
            voice = wav.read((FOLDER / line["file"]).read_bytes())
            phones = [Phone(**p) for p in line["phones"]]
            truth = act(phones, line["seconds"], 9000 + number)
            recording, _ = read_table(record(truth, Timecode(0, parse_rate(60)), 9100 + number))
            late = int(rng.integers(-15, 16))
            heard = late_sound(voice, late, 30, truth.seconds)
            heard = Sound(heard.samples + rng.normal(0, noise, heard.samples.shape).astype(np.float32), heard.rate)
            found = estimate(evaluate(recording, ()), heard)
            rows.append((noise, found.offset * 30 + late, found.confident, found.scores.max(), found.confidence))
    wrong = np.array([r[1] for r in rows])
    sure = np.array([r[2] for r in rows])
    for noise in (0.0, 0.02, 0.06):
        own = np.array([r[0] == noise for r in rows])
        told = own & sure
        right = (np.abs(wrong[told]) <= 1).mean() if told.any() else float("nan")
        print(f"noise {noise:.2f}: {told.sum():2d} of {own.sum()} confident, {right:.0%} of them within 1 frame")
    print(
        f"all: {len(rows)} takes, {sure.mean():.0%} confident, {(np.abs(wrong[sure]) <= 1).mean():.0%} of the confident within"
        f" 1 frame at 30 fps, median error {np.median(np.abs(wrong[sure])):.2f} frames, mean {wrong[sure].mean():+.2f}"
    )


if __name__ == "__main__":
    main()
