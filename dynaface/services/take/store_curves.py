"""Curves that were made here, kept as a source."""

from collections.abc import Mapping
from typing import Any

import numpy as np

from dynaface.core.clock.rates import format_rate
from dynaface.core.curves.channels import Channels
from dynaface.core.records.records import Source
from dynaface.formats.entries.curve_table import read_table, write_table
from dynaface.services.work import Work


def store_curves(work: Work, production: str, name: str, channels: Channels, about: Mapping[str, Any]) -> Source:
    """Channels as a source of curves; about: what else is known of it. The caller has checked that the person may."""
    table = write_table(channels)
    media, size = work.media.put_bytes(table)
    _, report = read_table(table)
    info = {k: v for k, v in report.describe().items() if k != "header"}
    info |= {"nominalRate": format_rate(channels.rate), **about}
    with work.store.unit() as unit:
        source = unit.sources.add(production, "curves", name, media, size, info)
        times = np.arange(channels.frames) / float(channels.rate)
        values = np.stack([channels.column(m["channel"]) for m in info["matched"]], axis=1)
        unit.sources.write_block(source.id, "times:f8", times[:, None])
        unit.sources.write_block(source.id, "values:f4", values)
    return source
