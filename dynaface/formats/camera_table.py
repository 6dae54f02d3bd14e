"""The motion of a camera round a still head as a table (docs/formats.md)."""

from fractions import Fraction

import numpy as np

HEADER = "frame,time,cameraX,cameraY,cameraZ,cameraTurnDeg,cameraNodDeg,cameraTiltDeg"


def write_camera(motion: np.ndarray, rate: Fraction, first: int) -> bytes:
    """motion: (frames, 6) metres and degrees, NaN (a blank cell) where it is not known; first: the clip's frame."""
    rows = [HEADER]
    for frame, row in enumerate(motion, first):
        cells = ("" if np.isnan(v) else f"{v:.6f}" for v in row)
        rows.append(f"{frame},{frame / float(rate):.6f},{','.join(cells)}")
    return ("\n".join(rows) + "\n").encode()
