"""The sound recorder of the demo's stage: `python -m tools.demo.recorder`, from what each take says and its phone heard."""

from pathlib import Path

import numpy as np
from scipy.signal import resample_poly

from dynaface.assets import ASSETS
from dynaface.core.sound.sound import Sound
from dynaface.formats.entries import wav
from dynaface.sims.moment import RATE, clapped, heard
from tools.demo.bodies import CLAPS, EARLY
from tools.demo.media import SOUND_LATE

TAKE = "mara_lamp"
FIRST, SECONDS = 0.86, 7.3  # of the stage at which the recorder runs, without a count
DRIFT = 45.0  # parts of a million by which its seconds are longer than the stage's
OWN, HISS, SEED = 24_000, 0.002, 11  # samples a second, of full scale


def recorder(folder: Path) -> None:
    """Writes what the recorder heard: the clap that the suit saw, then the line."""
    phone = wav.read((folder / f"{TAKE}.wav").read_bytes())
    common = int(np.gcd(RATE, phone.rate))
    voice = resample_poly(phone.mono(), RATE // common, phone.rate // common)
    room = np.zeros(int((FIRST + SECONDS + 1) * RATE), np.float32)
    at = round((EARLY - SOUND_LATE / 60) * RATE)
    length = min(len(voice), len(room) - at)
    room[at : at + length] = voice[:length]
    rng = np.random.default_rng(SEED)
    loud = clapped(Sound(room[:, None], RATE), CLAPS[TAKE], rng)
    (folder / f"{TAKE}_recorder.wav").write_bytes(wav.write(heard(loud, FIRST, SECONDS, OWN, DRIFT, HISS, rng)))


if __name__ == "__main__":
    recorder(ASSETS / "demo")
