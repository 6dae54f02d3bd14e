"""The markers of a take as C3D; its timecode stands in a parameter group of its own, C3D having no place for it."""

import numpy as np

from dynaface.core.clock.rates import parse_rate
from dynaface.core.clock.timecode import from_seconds
from dynaface.core.handover.delivery import Delivery
from dynaface.core.markers.take import MarkerTake
from dynaface.formats.entries import c3d
from dynaface.formats.handover import Check, Files, HandoverForm, Settings, Tell, compared


def lacks(delivery: Delivery) -> str:
    """It needs markers."""
    return "" if delivery.marked else "there are no markers to hand over"


def name_of(delivery: Delivery) -> str:
    """Of the file."""
    return f"{delivery.name}.c3d"


def asked_for(delivery: Delivery) -> MarkerTake:
    """The markers from the first frame to the last, at their own rate or the one that is asked for; a gap stays one."""
    assert delivery.marked is not None
    take, offset = delivery.marked.take, delivery.marked.offset
    rate = parse_rate(delivery.options.rate) if delivery.options.rate else take.rate
    first = round(offset * float(take.rate)) / float(take.rate) if rate == take.rate else offset
    count = max(round(delivery.first.performance.channels.seconds * float(rate)), 1)
    exact = np.clip((first + np.arange(count) / float(rate)) * float(take.rate), 0, take.frames - 1)
    low = np.floor(exact + 1e-6).astype(int)
    part = np.clip(exact - low, 0, 1)[:, None, None]
    high = np.minimum(low + 1, take.frames - 1)
    between = take.points[low] * (1 - part) + take.points[high] * part
    points = np.where(part < 1e-6, take.points[low], between)
    code = take.timecode
    begins = code and from_seconds(max(code.seconds + first, 0.0), code.rate, code.drop)
    return MarkerTake(tuple(delivery.options.named(n) for n in take.labels), points, rate, begins)


def write(delivery: Delivery, settings: Settings, tell: Tell) -> dict[str, bytes]:
    """One file."""
    return {name_of(delivery): c3d.write(asked_for(delivery))}


def check(files: Files, delivery: Delivery, settings: Settings, node: str) -> list[Check]:
    """Read back, each marker is where it was, and lost where it was lost."""
    meant, read = asked_for(delivery), c3d.read(files[name_of(delivery)])
    same = read.labels == meant.labels and read.points.shape == meant.points.shape
    out = [
        Check(
            "markers read back",
            same,
            f"{read.frames} of {meant.frames} frames, {len(read.labels)} of {len(meant.labels)} markers",
        )
    ]
    if same:
        lost = (np.isnan(read.points) != np.isnan(meant.points)).any()
        worst = float(np.nanmax(np.abs(read.points - meant.points), initial=0.0)) if not lost else float("inf")
        out.append(compared("markers where they were, in metres", worst, 1e-6))
    if meant.timecode:
        apart = abs(read.timecode.seconds - meant.timecode.seconds) if read.timecode else float("inf")
        out.append(Check("markers begin at their timecode", apart < 1e-6, str(read.timecode or "none")))
    return out


FORM = HandoverForm(
    "markers", "Markers (.c3d)", ".c3d", "The optical markers of a take, cut to the frames.", lacks, write, check,
    rank=9,
    wants=("markers",),
)  # fmt: skip
