"""Makes the demo's voices, phone tables and body takes: `python -m tools.demo.media` (needs espeak-ng).

Writes dynaface/assets/demo (the takes of "The Salt Lantern") and dynaface/assets/bench/speech (other lines and voices, for figures).
"""

import json
from dataclasses import asdict
from fractions import Fraction
from pathlib import Path

import numpy as np
from scipy.signal import resample_poly

from dynaface.assets import ASSETS
from dynaface.core.clock.timecode import parse_timecode
from dynaface.core.curves.rerate import at_rate
from dynaface.core.sound.sound import Sound
from dynaface.formats.entries import wav
from dynaface.sims import phone
from dynaface.sims.actor import Temper, act
from dynaface.sims.faults import break_take
from dynaface.sims.speech import Phone
from tools.demo.bodies import bodies
from tools.demo.voice import phones_of, speak

# name, performer, line, voice, speed, pitch, seed, temper, start timecode at 60 frames per second
TAKES = (
    ("mara_lamp", "Mara Quill", "The lamp burns low before the morning boat.", "en-us+f3", 128, 26, 4101,
     Temper(brow=0.6, smile=0.10, gaze=9), "10:14:22:30"),
    ("mara_ferry", "Mara Quill", "Nobody pays a ferry twice, my friend.", "en-us+f3", 132, 30, 4102,
     Temper(brow=0.5, smile=0.24, gaze=8, head=6), "10:19:05:12"),
    ("ivo_hush", "Ivo Thackett", "Hush. Something moved by the moorings.", "en-us+m3", 126, 34, 4103,
     Temper(brow=0.9, smile=-0.12, gaze=13, head=7, blinks=13), "10:31:47:48"),
)  # fmt: skip
SECOND_FAULTS = ("jitter burst", "spike", "lids out of step", "head pop")
SECOND_SEED = 4113
SOUND_LATE = 9  # frames of the phone
OTHER_LINES = ("Seven gulls sat upon the pilot's boat.", "My brother bought a lamp before the market opened.",
               "Put the kettle on before the bell, please.", "A better man would have kept both oars.")  # fmt: skip
OTHER_VOICES = (("en-us+f2", 140, 45), ("en-us+m1", 130, 40), ("en-us+f4", 150, 55))


def takes(folder: Path) -> None:
    """The demo's takes."""
    lines = []
    for name, performer, text, voice, speed, pitch, seed, temper, start in TAKES:
        said = speak(text, voice, speed, pitch)
        phones = phones_of(text, said)
        truth = act(phones, said.seconds, seed, temper)
        begins = parse_timecode(start, Fraction(60))
        (folder / f"{name}.csv").write_bytes(phone.record(truth, begins, seed))
        sound = phone.late_sound(said, SOUND_LATE, 60, truth.seconds)
        (folder / f"{name}.wav").write_bytes(wav.write(sound))
        lines.append({"name": name, "performer": performer, "text": text, "seed": seed, "temper": asdict(temper),
                      "start": start, "seconds": said.seconds, "phones": [asdict(p) for p in phones]})  # fmt: skip
    (folder / "lines.json").write_text(json.dumps(lines, indent=1) + "\n")
    bodies(folder)


def second_phone(folder: Path) -> None:
    """The moment of 4B / 2 as another phone saw it, whose tracking was poor: it trembles, jumps and blinks askew."""
    said = next(line for line in json.loads((folder / "lines.json").read_text()) if line["name"] == "mara_ferry")
    phones = [Phone(**p) for p in said["phones"]]
    truth = at_rate(act(phones, said["seconds"], said["seed"], Temper(**said["temper"])), Fraction(60))
    voice = wav.read((folder / "mara_ferry.wav").read_bytes())
    broken, _, _ = break_take(truth, voice, phones, SECOND_FAULTS, SECOND_SEED, 0.004)
    faults = phone.Faults(dropped=0.008, doubled=0.004, lost=0, noise=0.003, head_noise=0.08)
    start = parse_timecode(said["start"], Fraction(60))
    (folder / "mara_second.csv").write_bytes(phone.record(broken, start, SECOND_SEED, faults))
    (folder / "mara_second.wav").write_bytes((folder / "mara_ferry.wav").read_bytes())


def other_speech(folder: Path) -> None:
    """Short sounds with their phones, for measuring the sync estimate."""
    lines = []
    for text in OTHER_LINES:
        for voice, speed, pitch in OTHER_VOICES:
            said, phones = spoken(text, voice, speed, pitch)
            name = f"{text.split()[0].lower()}_{voice[-2:]}.wav"
            small = resample_poly(said.mono(), 1, 2)[:, None].astype(np.float32)
            (folder / name).write_bytes(wav.write(Sound(small, said.rate // 2)))
            lines.append({"file": name, "text": text, "seconds": said.seconds, "phones": [asdict(p) for p in phones]})
    (folder / "lines.json").write_text(json.dumps(lines) + "\n")


def spoken(text: str, voice: str, speed: int, pitch: int) -> tuple[Sound, list[Phone]]:
    """The line at the first speed near the one asked at which the aligner follows it."""
    for change in (0, -8, 8, -16, 16, -24, 24):
        said = speak(text, voice, speed + change, pitch)
        try:
            return said, phones_of(text, said)
        except RuntimeError:
            continue
    raise RuntimeError(f"the aligner follows {voice} at no speed saying {text!r}")


def main() -> None:
    """Command line."""
    for folder, make in ((ASSETS / "demo", takes), (ASSETS / "bench/speech", other_speech)):
        folder.mkdir(parents=True, exist_ok=True)
        make(folder)
        if make is takes:
            second_phone(folder)
        print(f"{folder.name}: {sum(f.stat().st_size for f in folder.iterdir()) / 1e6:.1f} MB")


if __name__ == "__main__":
    main()
