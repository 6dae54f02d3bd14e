"""Which shapes belong together: the two sides of one motion, and motions that a face cannot make at once."""

from dynaface.core.shapes.standard import CHANNELS, SHAPES, mirrored


def _other_eye(channel: str) -> str:
    """Both eyes look the same way: out on one side is in on the other."""
    swapped = mirrored(channel)
    if channel.startswith("eyeLookIn"):
        return swapped.replace("In", "Out", 1)
    if channel.startswith("eyeLookOut"):
        return swapped.replace("Out", "In", 1)
    return swapped


# (left, right) of what the two sides of a face do together; the eyes look the same way.
SIDES: tuple[tuple[str, str], ...] = tuple(
    (c, _other_eye(c)) for c in CHANNELS if c.endswith("Left") and c not in ("jawLeft", "mouthLeft")
)

OPPOSED: tuple[tuple[str, str], ...] = (
    ("jawLeft", "jawRight"),
    ("mouthLeft", "mouthRight"),
    *((f"mouthSmile{s}", f"mouthFrown{s}") for s in ("Left", "Right")),
    *((f"browDown{s}", f"browOuterUp{s}") for s in ("Left", "Right")),
    *((f"eyeWide{s}", f"eyeSquint{s}") for s in ("Left", "Right")),
    *((f"eyeLookUp{s}", f"eyeLookDown{s}") for s in ("Left", "Right")),
    *((f"eyeLookIn{s}", f"eyeLookOut{s}") for s in ("Left", "Right")),
    *(("mouthPucker", f"mouthStretch{s}") for s in ("Left", "Right")),
)
"""Pairs of which a face makes one at a time."""

assert {c for pair in OPPOSED for c in pair} <= set(SHAPES)
