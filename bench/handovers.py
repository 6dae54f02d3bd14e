"""Handing over: how long each form takes, how large its files are, and how near what is read back is to what was meant.

    python -m bench.handovers

Odile speaks for 1,000 frames of a made performance. What is read back is compared with the performance by the forms' own checks; a movie of 1280 x 720
is drawn on this machine's processor, which has no graphics card, beside what coding the same pictures alone takes.
"""

import shutil
import time
from fractions import Fraction

import numpy as np

from dynaface.assets import ASSETS
from dynaface.core.cast.sheet import CastSheet
from dynaface.core.curves.channels import Channels
from dynaface.core.handover.asked import asked
from dynaface.core.handover.delivery import Delivery, Figure, Voice
from dynaface.core.handover.edit_list import EditList, Media, Piece, laid_apart
from dynaface.core.handover.options import HandoverOptions
from dynaface.core.perform.perform import perform_take
from dynaface.core.sound.sound import Sound
from dynaface.formats.catalogue import HANDOVERS
from dynaface.formats.character_file import open_character
from dynaface.formats.entries import video
from dynaface.sims.actor import act
from dynaface.sims.moment import spoken_lines

FRAMES, RATE = 1000, 120
WISHED = 240.0  # seconds for the movie


def delivery(tolerance: float = 0.0) -> Delivery:
    """Odile with a voice for so many frames."""
    seconds = FRAMES / RATE
    room, phones = spoken_lines(seconds, np.random.default_rng(20))
    face = act(phones, seconds, 20)
    face = Channels(face.names, face.values[:FRAMES], face.rate)
    rig, _, raw = open_character((ASSETS / "characters/odile.glb").read_bytes(), "odile.glb")
    options = HandoverOptions(tolerance=tolerance)
    made = asked(perform_take(face, rig, CastSheet()), rig.skeleton, options)
    media = Media("odile.mp4", Fraction(FRAMES, RATE))
    edit = EditList("shot", face.rate, media.seconds, tuple(laid_apart("Odile", "picture", [Piece("a", Fraction(0), media.seconds, Fraction(0), media)])))  # fmt: skip
    voice = Voice("voice.wav", 0.0, Sound(room.samples, room.rate))
    return Delivery("odile", (Figure("odile", made, raw, rig.skeleton),), options, voice, edit)


def main() -> None:
    """Prints a line a form."""
    node = shutil.which("node") or ""
    given = delivery()
    for name, form in HANDOVERS.items():
        if form.lacks(given):
            continue
        settings = form.complete({})
        begun = time.perf_counter()
        files = form.write(given, settings, lambda part, message: None)
        written = time.perf_counter() - begun
        checks = form.check(files, given, settings, node)
        size = sum(map(len, files.values())) / 1e6
        wrong = [c for c in checks if c.ok is False]
        wished = f" (wanted {WISHED:.0f} s)" if name == "movie" else ""
        print(f"{form.label}: {FRAMES} frames in {written:.2f} s{wished}, {size:.2f} MB, {len(checks) - len(wrong)} of {len(checks)} checks came off; {checks[0].found}")  # fmt: skip
        if name == "movie":
            pictures = list(video.read(files["odile.mp4"]).pictures())
            begun = time.perf_counter()
            video.encode(iter(pictures), Fraction(RATE))
            print(f"  coding these pictures alone: {time.perf_counter() - begun:.2f} s")
    apart = HANDOVERS["gltf"].complete({})
    for tolerance in (0.0005, 0.002):
        few = HANDOVERS["gltf"].write(delivery(tolerance), apart, lambda part, message: None)
        every = HANDOVERS["gltf"].write(given, apart, lambda part, message: None)
        (one,), (other,) = few.values(), every.values()
        print(
            f"glTF with a tolerance of {tolerance}: {len(one) / 1e6:.2f} MB, with a key on every frame {len(other) / 1e6:.2f} MB"
        )


if __name__ == "__main__":
    main()
