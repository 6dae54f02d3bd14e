"""A packet of a feed: what one sender says of one performer at one moment, in the sender's own names."""

from collections.abc import Mapping
from dataclasses import dataclass, field
from typing import NamedTuple

Quaternion = tuple[float, float, float, float]
Place = tuple[float, float, float]
MOST_SIGNALS = 1024  # named numbers of one performer


class JointRow(NamedTuple):
    """A joint of a skeleton. parent: the name of the joint above, "" for a topmost one; offset: from it at rest, metres, y up, the figure
    looking along +z; rest: local rotation at rest.
    """

    name: str
    parent: str
    offset: Place
    rest: Quaternion


@dataclass(frozen=True)
class Packet:
    """performer: as the sender calls them, "" where it does not; number: that the sender counts by, None without one; seconds: on
    the sender's clock, None without one; timecode: a label or ""; values: signal -> number, a signal being the sender's name of a
    value; joints: name -> local rotation (x, y, z, w); root: where the topmost joint is, metres, None where it is not said; skeleton: what
    the joints hang on, () where it is not said; ours: whether it came in a layout of ours, in which signals are channels and their
    units are known.
    """

    performer: str = ""
    number: int | None = None
    seconds: float | None = None
    timecode: str = ""
    values: Mapping[str, float] = field(default_factory=dict)
    joints: Mapping[str, Quaternion] = field(default_factory=dict)
    root: Place | None = None
    skeleton: tuple[JointRow, ...] = ()
    ours: bool = False
