"""How far lips trail the loudness of what they say: `python -m tools.lip_trail` prints what JAW_TRAIL of core/sync/lips_to_sound.py is set to.

Measured on the lines of one voice (SET_ON), near the mouth and somewhere in a room, which the figures of bench/lip_sync.py and bench/line_up.py leave out.
"""

import json

import numpy as np

from dynaface.core.sound.sound import Sound
from dynaface.core.sync.lips_to_sound import JAW_TRAIL, estimate
from dynaface.formats.entries import wav
from dynaface.sims.actor import act
from dynaface.sims.moment import FOLDER, RATE, SET_ON, heard
from dynaface.sims.speech import Phone

SEEDS = 12


def at_rate(voice: Sound) -> Sound:
    """The voice at the samples a second of a room."""
    times = np.arange(int(voice.seconds * RATE)) / RATE
    own = np.arange(len(voice.samples)) / voice.rate
    return Sound(np.interp(times, own, voice.mono()).astype(np.float32)[:, None], RATE)


def main() -> None:
    """Prints the trail of each line and their median, in seconds."""
    found = []
    for line in json.loads((FOLDER / "lines.json").read_text()):
        if SET_ON in line["file"]:
            voice = wav.read((FOLDER / line["file"]).read_bytes())
            phones = [Phone(**p) for p in line["phones"]]
            trails = []
            for seed in range(SEEDS):
                rng = np.random.default_rng(seed)
                room = heard(at_rate(voice), 0.0, voice.seconds, RATE, 0.0, rng.uniform(0, 0.01), rng)
                face = act(phones, line["seconds"], seed)
                trails += [JAW_TRAIL - estimate(face, sound).offset for sound in (voice, room)]
            found += trails
            print(f"{line['file']}: {np.median(trails):+.4f}")
    print(f"median: {np.median(found):+.4f} s")


if __name__ == "__main__":
    main()
