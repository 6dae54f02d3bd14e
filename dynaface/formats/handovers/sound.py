"""The sound of what is handed over as a WAV; when it begins stands in its `bext` time reference and `iXML` rate."""

import numpy as np

from dynaface.core.handover.delivery import Delivery
from dynaface.formats.entries import wav
from dynaface.formats.handover import Check, Files, HandoverForm, Settings, Tell
from dynaface.formats.heard import heard, heard_name


def lacks(delivery: Delivery) -> str:
    """It needs a sound."""
    return "" if delivery.sounding else "there is no sound to hand over"


def write(delivery: Delivery, settings: Settings, tell: Tell) -> dict[str, bytes]:
    """One file."""
    return {heard_name(delivery): wav.write(heard(delivery))}


def check(files: Files, delivery: Delivery, settings: Settings, node: str) -> list[Check]:
    """Read back it is as long as the frames, sounds the same and begins at the same moment."""
    meant, read = heard(delivery), wav.read(files[heard_name(delivery)])
    same = read.samples.shape == meant.samples.shape
    worst = float(np.abs(read.samples - meant.samples).max()) if same and len(meant.samples) else 0.0
    out = [
        Check("sound reads back", same and worst <= 2 / 32768, f"{read.seconds:.3f} s, worst difference {worst:.1e}")
    ]
    if meant.timecode and meant.timecode.seconds > 0:  # a reference of 0 is none
        apart = abs(read.timecode.seconds - meant.timecode.seconds) if read.timecode else float("inf")
        out.append(Check("sound begins at its timecode", apart <= 1 / meant.rate, str(read.timecode or "none")))
    return out


FORM = HandoverForm("sound", "Sound (.wav)", ".wav", "The voice or the mix of the shot, cut to the frames, with its timecode.", lacks, write, check,
    rank=5,
    wants=("sound",),
)  # fmt: skip
