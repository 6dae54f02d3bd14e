"""How far lips trail the loudness of what they say: `python -m tools.lip_trail` prints what TRAIL of core/sync/lips_to_sound.py is set to.

Measured on the lines of one voice (SET_ON), which the figures of bench/lip_sync.py and bench/line_up.py leave out.
"""

import json

import numpy as np

from dynaface.core.sync.lips_to_sound import TRAIL, estimate
from dynaface.formats.entries import wav
from dynaface.sims.actor import act
from dynaface.sims.moment import FOLDER, SET_ON
from dynaface.sims.speech import Phone

SEEDS = 12


def main() -> None:
    """Prints the trail of each line and their median, in seconds."""
    found = []
    for line in json.loads((FOLDER / "lines.json").read_text()):
        if SET_ON in line["file"]:
            voice = wav.read((FOLDER / line["file"]).read_bytes())
            phones = [Phone(**p) for p in line["phones"]]
            trails = [TRAIL - estimate(act(phones, line["seconds"], seed), voice).offset for seed in range(SEEDS)]
            found += trails
            print(f"{line['file']}: {np.median(trails):+.4f}")
    print(f"median: {np.median(found):+.4f} s")


if __name__ == "__main__":
    main()
