"""Pictures of moments as PNG, evenly over the frames."""

import cv2
import numpy as np

from dynaface.core.handover.delivery import Delivery
from dynaface.core.parameters import Parameter
from dynaface.formats.filmed import FRAMES, filmed
from dynaface.formats.handover import Check, Files, HandoverForm, Settings, Tell, model_lacks

SIZES = {"1280 x 720": (1280, 720), "1920 x 1080": (1920, 1080), "1080 x 1080": (1080, 1080)}


def numbers(delivery: Delivery, settings: Settings) -> list[int]:
    """The frames that are shown: as many, each in the middle of its part."""
    count, frames = round(settings["count"]), delivery.first.performance.channels.frames
    return sorted({int((n + 0.5) * frames / count) for n in range(count)})


def name_of(delivery: Delivery, number: int) -> str:
    """Of the file of a frame."""
    return f"{delivery.name}_{number:05d}.png"


def write(delivery: Delivery, settings: Settings, tell: Tell) -> dict[str, bytes]:
    """A file a frame."""
    wanted = numbers(delivery, settings)
    pictures = filmed(delivery.figures, FRAMES[settings["framing"]], SIZES[settings["size"]], wanted)
    out = {}
    for done, (number, picture) in enumerate(zip(wanted, pictures, strict=True)):
        tell(done / len(wanted), f"drawing frame {number}")
        out[name_of(delivery, number)] = cv2.imencode(".png", picture[..., ::-1])[1].tobytes()
    return out


def check(files: Files, delivery: Delivery, settings: Settings, node: str) -> list[Check]:
    """Decoded again, each is as large as it should be and shows something."""
    wanted, (width, height) = numbers(delivery, settings), SIZES[settings["size"]]
    good = 0
    for number in wanted:
        read = cv2.imdecode(np.frombuffer(files[name_of(delivery, number)], np.uint8), cv2.IMREAD_COLOR)
        good += read is not None and read.shape == (height, width, 3) and float(read.std()) > 1
    return [Check("stills read back", good == len(wanted), f"{good} of {len(wanted)}, {width} x {height}")]


FORM = HandoverForm(
    "stills", "Stills (.png)", ".png", "Pictures of moments, evenly over the frames.", model_lacks, write, check,
    (
        Parameter("count", "How many", "number", 4.0, low=1, high=60, step=1),
        Parameter("size", "Size", "choice", "1280 x 720", unit="px", options=tuple(SIZES)),
        Parameter("framing", "Shows", "choice", "the faces", options=tuple(FRAMES)),
    ),
    rank=8,
)  # fmt: skip
