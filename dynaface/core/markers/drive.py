"""Direct drive: the distance between two markers, dots or places of the face as a channel, for rigs that need no face solved."""

from collections.abc import Mapping
from dataclasses import dataclass, replace
from typing import Any

import numpy as np

from dynaface.core import checks
from dynaface.core.curves.channels import Channels
from dynaface.core.errors import InputError
from dynaface.core.markers.take import Array
from dynaface.core.shapes.standard import DISTANCES, SHAPES

MAX_DRIVES = 60


@dataclass(frozen=True)
class Drive:
    """one, two: labels of the markers; rest: millimetres between them at which the channel is 0, None for what is between them in
    the neutral face; reach: millimetres more (less, where it is negative) at which it is 1; low, high: limits of the channel.
    """

    one: str
    two: str
    rest: float | None
    reach: float
    low: float = 0.0
    high: float = 1.0

    def describe(self) -> dict[str, Any]:
        """As plain data."""
        return {
            "from": self.one,
            "to": self.two,
            "rest": self.rest,
            "reach": self.reach,
            "low": self.low,
            "high": self.high,
        }


def parse_drives(data: Any) -> dict[str, Drive]:
    """channel -> drive, from plain data; raises InputError."""
    if not isinstance(data, Mapping) or len(data) > MAX_DRIVES:
        raise InputError(f"drives must be a table of at most {MAX_DRIVES} drives by channel")
    return {
        checks.one_of("driven channel", channel, SHAPES + DISTANCES): _drive(channel, body)
        for channel, body in data.items()
    }


def _drive(channel: str, body: Any) -> Drive:
    if not isinstance(body, Mapping) or not {"from", "to"} <= set(body):
        raise InputError(f"the drive of {channel} must say from and to which marker", hint="docs/formats.md shows one")
    for key in body:
        checks.one_of(f"field of the drive of {channel}", key, ("from", "to", "rest", "reach", "low", "high"))
    one, two = str(body["from"])[:120], str(body["to"])[:120]
    if one == two:
        raise InputError(f"the drive of {channel} goes from {one} to itself", hint="Choose two markers")
    given = body.get("rest")
    rest = None if given is None else checks.within(f"rest of {channel}", given, 0, 1000)
    reach = checks.within(f"reach of {channel}", body.get("reach", 10.0), -1000, 1000)
    if abs(reach) < 0.01:
        raise InputError(f"the reach of {channel} is {reach:g} mm; it must be at least 0.01 either way")
    low, high = (checks.within(f"limit of {channel}", body.get(k, v), 0, 1) for k, v in (("low", 0.0), ("high", 1.0)))
    if low > high:
        raise InputError(f"the limits of {channel} are {low:g}..{high:g}")
    return Drive(one, two, rest, reach, low, high)


def driven(channels: Channels, drives: Mapping[str, Drive], labels: tuple[str, ...], points: Array, still: Array
           ) -> Channels:  # fmt: skip
    """The channels with those that are driven put in place of what was solved; points (frames, markers, 3) and still (markers, 3) of
    the neutral face in metres. Where one of both markers is not seen, the channel stays as it was; DISTANCES, which nothing solves,
    are added as they are driven and are unknown there. Raises InputError for a marker that is not there.
    """
    added = tuple(d for d in DISTANCES if d in drives and d not in channels.names)
    unknown = np.full((channels.frames, len(added)), np.nan, np.float32)
    names, values = channels.names + added, np.hstack([channels.values, unknown])
    for channel, drive in drives.items():
        for label in (drive.one, drive.two):
            if label not in labels:
                raise InputError(f"{channel} is driven by {label}, which is not in this take")
        one, two = labels.index(drive.one), labels.index(drive.two)
        rest = float(np.linalg.norm(still[one] - still[two])) * 1000 if drive.rest is None else drive.rest
        if not np.isfinite(rest):
            raise InputError(f"{drive.one} and {drive.two} are not both seen in the neutral face",
                             hint=f"Say at how many millimetres {channel} is 0")  # fmt: skip
        away = np.linalg.norm(points[:, one] - points[:, two], axis=1) * 1000
        value = np.clip((away - rest) / drive.reach, drive.low, drive.high)
        column = names.index(channel)
        values[:, column] = np.where(np.isfinite(value), value, values[:, column])
    return replace(channels, names=names, values=values.astype(np.float32))
