"""What the worker hands over: a delivery, with what it was made of and what else goes along."""

from collections.abc import Callable, Iterator, Mapping
from dataclasses import dataclass, field
from datetime import UTC, datetime
from typing import Any

from dynaface.core.clock.rates import format_rate
from dynaface.core.curves.channels import Channels
from dynaface.core.handover.delivery import Delivery
from dynaface.formats.handover import Check

Beside = Iterator[tuple[str, bytes, Check]]


def nothing_beside() -> Beside:
    """For what is handed over alone."""
    return iter(())


@dataclass(frozen=True)
class Made:
    """document: the take or shot; label: for people; of: what the manifest says that it was made of; beside: further files with what was found in
    them.
    """

    delivery: Delivery
    document: str
    label: str
    of: Mapping[str, Any]
    beside: Callable[[], Beside] = field(default=nothing_beside)


def words_for(channels: Channels, production: str, **known: str) -> dict[str, str]:
    """What a pattern of file names may name."""
    return {
        "production": production, "rate": format_rate(channels.rate), "timecode": str(channels.timecode or ""),
        "date": datetime.now(UTC).date().isoformat(), **known,
    }  # fmt: skip
