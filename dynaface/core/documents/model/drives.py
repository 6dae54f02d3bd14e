"""Direct drives as documents hold them."""

from typing import Annotated, Any

from pydantic import Field

from dynaface.core.documents.model.record import Part


class DistanceDrive(Part):
    """A channel driven by the distance of two markers, dots or places (core/markers/drive.py); lengths in millimetres."""

    one: Annotated[str, Field(alias="from", min_length=1, max_length=120)]
    two: Annotated[str, Field(alias="to", min_length=1, max_length=120)]
    rest: float | None = None
    reach: float = 10.0
    low: float = 0.0
    high: float = 1.0


Drives = dict[str, DistanceDrive]


def plain_drives(drives: Drives) -> dict[str, Any]:
    """As plain data, for the parsers of core/markers."""
    return {channel: d.plain() for channel, d in drives.items()}
