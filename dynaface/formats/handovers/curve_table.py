"""The curves as a table, whoever plays them; timecode has a column."""

from fractions import Fraction

import numpy as np

from dynaface.core.handover.delivery import Delivery
from dynaface.core.returns.brought import Brought, of_channels
from dynaface.formats.entries.curve_table import read_table, table_to_channels, write_table
from dynaface.formats.handover import Check, Files, HandoverForm, Settings, Tell, nothing_lacks, of_file


def write(delivery: Delivery, settings: Settings, tell: Tell) -> dict[str, bytes]:
    """A table a figure."""
    return {f"{figure.name}.csv": write_table(figure.performance.channels) for figure in delivery.figures}


def check(files: Files, delivery: Delivery, settings: Settings, node: str) -> list[Check]:
    """Read back, all its values are those that were written."""
    out = []
    for figure in delivery.figures:
        channels = figure.performance.channels
        read, _ = read_table(files[f"{figure.name}.csv"])
        good = len(read.times) == channels.frames
        worst = 0.0
        if good:
            own = [n for n in channels.names if n in read.names and np.isfinite(channels.column(n)).any()]
            apart = [
                np.nan_to_num(read.values[:, read.names.index(n)]) - np.nan_to_num(channels.column(n)) for n in own
            ]
            worst = float(np.abs(apart).max()) if own else 0.0
        found = f"{len(read.times)} of {channels.frames} frames, worst difference {worst:.1e}"
        said = Check("curve table reads back", good and worst <= 1e-4, found)
        out += of_file(f"{figure.name}.csv", [said], len(delivery.figures) > 1)
    return out


def bring(data: bytes, near: Fraction) -> dict[str, Brought]:
    """The curves of a table that comes back."""
    return {"": of_channels(table_to_channels(data))}


FORM = HandoverForm(
    "curve table", "Curve table (.csv)", ".csv", "A column a shape, a row a frame; needs no character.", nothing_lacks, write, check,
    rank=4,
    bring=bring,
)  # fmt: skip
