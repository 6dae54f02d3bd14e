"""Regions of the face: every channel is in exactly one."""

from dynaface.core.shapes.standard import CHANNELS, SHAPES

# What a solve tells of; "extra" is what it only carries along.
FACE: tuple[str, ...] = ("brows", "lids", "gaze", "nose", "cheeks", "jaw", "lips", "tongue", "head")
REGIONS: tuple[str, ...] = (*FACE, "extra")

_BY_PREFIX = (
    ("brow", "brows"), ("eyeLook", "gaze"), ("gaze", "gaze"), ("eye", "lids"), ("nose", "nose"), ("cheek", "cheeks"),
    ("jaw", "jaw"), ("mouth", "lips"), ("tongue", "tongue"), ("head", "head"), ("distance", "extra"),
)  # fmt: skip


def region_of(channel: str) -> str:
    """The region of a standard channel; raises KeyError for any other name."""
    return REGION[channel]


REGION: dict[str, str] = {c: next(region for prefix, region in _BY_PREFIX if c.startswith(prefix)) for c in CHANNELS}
# Which of the 52 shapes are of each region of a face, by their numbers; the head has none.
SHAPES_OF: dict[str, list[int]] = {r: [i for i, s in enumerate(SHAPES) if REGION[s] == r] for r in FACE}
