"""keys.json: channels as keys."""

from collections.abc import Mapping

import orjson

from dynaface.core.clock.rates import format_rate
from dynaface.core.curves.channels import Channels
from dynaface.core.curves.keys import Keys


def write_keys(of: Channels, keys: Mapping[str, Keys]) -> bytes:
    """The keys of channels with the rate and length that they belong to."""
    body = {
        "dynafaceKeys": 1,
        "rate": format_rate(of.rate),
        "frames": of.frames,
        "timecode": str(of.timecode) if of.timecode else "",
        "channels": {name: [k.plain() for k in rows] for name, rows in keys.items()},
    }
    return orjson.dumps(body) + b"\n"
