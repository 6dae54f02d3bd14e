"""Makes the demo's footage: `python -m tools.demo.footage [--again] [NAME ...]`. Takes some minutes; with --again the clips and what
was tracked in them stay, and only cards and curves are made anew.

For each performer: a clip of a line (the same performance that a phone recorded; Mara before her webcam, Ivo with a hand-held
camera and a hand before his mouth), a range of motion, a neutral head turn, the performer card measured from both and the
curves solved with that card, so that the demo opens with all of them there.
"""

import json
import sys
from dataclasses import dataclass, replace
from fractions import Fraction

import numpy as np

from dynaface.assets import ASSETS
from dynaface.core.curves.channels import Channels
from dynaface.core.sound.sound import Sound
from dynaface.demo.seed import FINE, landmark_rows
from dynaface.formats.card_file import read_card, write_card
from dynaface.formats.entries import video, wav
from dynaface.formats.entries.curve_table import write_table
from dynaface.formats.head_file import general_head
from dynaface.pipelines.solve_footage import find_landmarks, make_card, parse_samples, solve_footage
from dynaface.services.footage.seen_landmarks import packed, unpacked
from dynaface.services.footage.solve_take import by_region
from dynaface.sims.actor import Temper, act
from dynaface.sims.footage.clip import Setting, render
from dynaface.sims.footage.performer import make_performer
from dynaface.sims.footage.script import NAMES, head_turn, range_of_motion
from dynaface.sims.speech import Phone
from tools.demo.media import SOUND_LATE

FOLDER = ASSETS / "demo"
RATE = Fraction(30)
DESK_LAMP = Setting(size=(480, 480), fov=38.0, away=0.37, key=(-0.42, 0.38, 0.82), warmth=0.07, level=0.86, ambient=0.36,
                    noise=0.007, ground=(0.045, 0.06, 0.065))  # fmt: skip
WINDOW = Setting(size=(480, 480), fov=34.0, away=0.42, key=(0.5, 0.3, 0.8), warmth=-0.05, level=0.82, ambient=0.4,
                 noise=0.008, ground=(0.07, 0.08, 0.1))  # fmt: skip


@dataclass(frozen=True)
class Filmed:
    """A performer (seed, how far their shapes differ), where, and which line the clip shows; a hand passes at `hand` of it."""

    seed: int
    setting: Setting
    line: str
    shake: float = 0.0
    hand: tuple[float, float] | None = None


FILMS = {"mara": Filmed(4110, DESK_LAMP, "mara_lamp"), "ivo": Filmed(4123, WINDOW, "ivo_hush", 0.004, (0.42, 0.68))}


def make(name: str, film: Filmed) -> None:
    """Range of motion, head turn and clip of one performer, the card, and the clip solved with it."""
    performer = make_performer(general_head(), film.seed, 0.10)

    def filmed(performed: Channels, setting: Setting, seed: int, quality: int) -> bytes:
        return video.encode(render(performer, performed, setting, seed), RATE, quality, 12)

    line = next(x for x in json.loads((FOLDER / "lines.json").read_text()) if x["name"] == film.line)
    truth = act([Phone(**p) for p in line["phones"]], line["seconds"], line["seed"], Temper(**line["temper"]), rate=30)
    performed = Channels(NAMES, np.stack([truth.column(n) for n in NAMES], axis=1), RATE)
    hands = (tuple(round(performed.frames * h) for h in film.hand),) if film.hand else ()
    rom, named = range_of_motion(film.seed)
    raw = {
        "rom": filmed(rom, replace(film.setting, noise=0.005), 2, 22),
        "turn": filmed(head_turn(film.seed), film.setting, 3, 22),
        "clip": filmed(performed, replace(film.setting, hands=hands, shake=film.shake), 1, 19),
    }
    (FOLDER / f"{name}_samples.json").write_text(json.dumps(named) + "\n")
    for part, data in raw.items():
        (FOLDER / f"{name}_{part}.mp4").write_bytes(data)
    found = {n: find_landmarks(video.read(data)) for n, data in raw.items()}
    rows = {n: packed(marks) for n, marks in found.items()}
    known = {n: np.clip(np.round(np.nan_to_num(r, nan=0) * FINE), 0, 65535).astype(np.uint16) for n, r in rows.items()}
    solve(name, film, known)
    voice = wav.read((FOLDER / f"{film.line}.wav").read_bytes())
    # The camera hears at once; the phone's file has its sound late.
    start = round(SOUND_LATE / 60 * voice.rate)
    (FOLDER / f"{name}_clip.wav").write_bytes(wav.write(Sound(voice.samples[start:], voice.rate)))
    for file in sorted(FOLDER.glob(f"{name}_*")):
        print(f"{file.name}: {file.stat().st_size / 1e6:.2f} MB")


def solve(name: str, film: Filmed, known: dict[str, np.ndarray]) -> None:
    """The card and the curves from the clips; known: part -> (frames, n) landmarks as they are kept, 0 where no face was found."""
    clips = {n: video.read((FOLDER / f"{name}_{n}.mp4").read_bytes()) for n in known}
    found = {n: [unpacked(row) for row in landmark_rows(kept)] for n, kept in known.items()}
    samples = parse_samples(json.loads((FOLDER / f"{name}_samples.json").read_text()))
    card = make_card(clips["rom"], samples, clips["turn"], film.setting.fov, found["rom"], found["turn"])
    (FOLDER / f"{name}_card.json").write_bytes(write_card(card))
    # Read again, so that the solve is by just the card that the demo has.
    solved = solve_footage(clips["clip"], read_card(write_card(card), general_head()), found=found["clip"])
    np.savez_compressed(FOLDER / f"{name}_footage.npz", **known, poses=solved.poses.astype(np.float32),
                        confidence=by_region(solved.confidence).astype(np.float16))  # fmt: skip
    (FOLDER / f"{name}_clip.csv").write_bytes(write_table(solved.channels))


def main() -> None:
    """Command line."""
    given = [a for a in sys.argv[1:] if a != "--again"]
    for name in given or FILMS:
        if "--again" in sys.argv:
            with np.load(FOLDER / f"{name}_footage.npz") as held:
                solve(name, FILMS[name], {n: held[n] for n in ("rom", "turn", "clip")})
        else:
            make(name, FILMS[name])


if __name__ == "__main__":
    main()
