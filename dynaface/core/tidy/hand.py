"""What an animator did by hand on top of the tidy stack: channels that hold keys, and corrections keyed on dense ones.

As plain data: {channel: {"mode": "keys" or "offset", "keys": {id: [frame, value, before, after, kind], ...}}}. "keys": the
channel is what its keys say. "offset": what its keys say is added, and what lies beneath can still change.
"""

from collections.abc import Mapping
from typing import Any

from dynaface.core import checks
from dynaface.core.curves.channels import Channels
from dynaface.core.curves.held import Held
from dynaface.core.curves.keys import evaluate_keys, keys_of_table
from dynaface.core.errors import InputError
from dynaface.core.shapes.standard import CHANNELS

MODES = ("keys", "offset")


def parse_hand(given: Mapping[str, Any]) -> dict[str, Held]:
    """From plain data; raises InputError that names channel and key."""
    out = {}
    for channel, entry in given.items():
        checks.one_of("channel", channel, CHANNELS)
        keys = keys_of_table(entry["keys"], channel)
        if not keys:
            raise InputError("a channel without keys is not held by any", where=channel, hint="Take it out instead")
        out[channel] = Held(checks.one_of("mode", entry["mode"], MODES), keys)
    return out


def apply_hand(channels: Channels, hand: Mapping[str, Held]) -> Channels:
    """The channels with what was done by hand; a channel that holds keys has no gaps."""
    present = [n for n in hand if n in channels.names]
    if not present or not channels.frames:
        return channels
    out = channels.values.copy()
    for name in present:
        column = channels.names.index(name)
        curve = evaluate_keys(hand[name].keys, channels.frames)
        out[:, column] = curve if hand[name].mode == "keys" else out[:, column] + curve
    return channels.with_values(out)
