"""Makes the demo's footage: `python -m tools.demo.footage`. Takes some minutes.

Mara's webcam clip of her first line (the same performance that her phone recorded), her range of motion, the performer card
measured from it and the curves solved with that card, so that the demo opens with all of them there.
"""

import json
from dataclasses import replace
from fractions import Fraction
from pathlib import Path

import numpy as np

from dynaface.core.curves.channels import Channels
from dynaface.core.sound.sound import Sound
from dynaface.demo.seed import FINE
from dynaface.formats.card_file import write_card
from dynaface.formats.entries import video, wav
from dynaface.formats.entries.curve_table import write_table
from dynaface.formats.head_file import general_head
from dynaface.services.prepare_footage import packed
from dynaface.services.solve_footage import Samples, looks_at, make_card, solve_footage
from dynaface.services.solve_take import by_region
from dynaface.sims.actor import Temper, act
from dynaface.sims.footage.clip import Setting, render
from dynaface.sims.footage.performer import make_performer
from dynaface.sims.footage.script import NAMES, head_turn, range_of_motion
from dynaface.sims.speech import Phone
from tools.demo.media import SOUND_LATE

FOLDER = Path(__file__).parents[2] / "assets/demo"
RATE = Fraction(30)
MARA = 4110
DESK_LAMP = Setting(size=(480, 480), fov=38.0, away=0.37, key=(-0.42, 0.38, 0.82), warmth=0.07, level=0.86, ambient=0.36,
                    noise=0.007, ground=(0.045, 0.06, 0.065))  # fmt: skip


def filmed(performed: Channels, setting: Setting, seed: int, quality: int, timecode: str = "") -> bytes:
    """A clip of a performance."""
    performer = make_performer(general_head(), MARA, 0.10)
    return video.encode(render(performer, performed, setting, seed), RATE, quality, 12, timecode)


def main() -> None:
    """Command line."""
    line = json.loads((FOLDER / "lines.json").read_text())[0]
    truth = act([Phone(**p) for p in line["phones"]], line["seconds"], line["seed"], Temper(**line["temper"]), rate=30)
    performed = Channels(NAMES, np.stack([truth.column(n) for n in NAMES], axis=1), RATE)
    rom, named = range_of_motion(MARA)
    clip = filmed(performed, DESK_LAMP, 1, 19)
    motion = filmed(rom, replace(DESK_LAMP, noise=0.005), 2, 22)
    turn = filmed(head_turn(MARA), DESK_LAMP, 3, 20)
    (FOLDER / "mara_webcam.mp4").write_bytes(clip)
    (FOLDER / "mara_rom.mp4").write_bytes(motion)
    (FOLDER / "mara_samples.json").write_text(json.dumps(named) + "\n")
    card = make_card(
        video.read(motion), Samples(tuple(named["neutral"]), named["samples"]), video.read(turn), DESK_LAMP.fov
    )  # type: ignore[arg-type]
    (FOLDER / "mara_card.json").write_bytes(write_card(card))
    seen = {n: list(looks_at(video.read(raw))) for n, raw in (("webcam", clip), ("rom", motion))}
    solved = solve_footage(video.read(clip), card, looks=seen["webcam"])
    rows = {n: np.array([packed(m) for _, m in looks]) for n, looks in seen.items()}
    known = {n: np.clip(np.round(r * FINE), 0, 65535).astype(np.uint16) for n, r in rows.items()}
    np.savez_compressed(
        FOLDER / "mara_footage.npz", **known, confidence=by_region(solved.confidence).astype(np.float16)
    )
    voice = wav.read((FOLDER / "mara_lamp.wav").read_bytes())
    # The webcam hears at once; the phone's file has its sound late.
    start = round(SOUND_LATE / 60 * voice.rate)
    (FOLDER / "mara_webcam.wav").write_bytes(wav.write(Sound(voice.samples[start:], voice.rate)))
    (FOLDER / "mara_webcam.csv").write_bytes(write_table(solved.channels))
    for name in ("mara_webcam.mp4", "mara_rom.mp4", "mara_card.json", "mara_webcam.csv", "mara_footage.npz"):
        print(f"{name}: {(FOLDER / name).stat().st_size / 1e6:.2f} MB")


if __name__ == "__main__":
    main()
