"""Keys that a channel holds, and what they mean there."""

from dataclasses import dataclass
from typing import Any

from dynaface.core.curves.keys import Keys


@dataclass(frozen=True)
class Held:
    """mode: "keys" (the channel is what they say), "offset" (what they say is added to what lies beneath) or "factor" (it is multiplied
    with that); each key has an id of its own.
    """

    mode: str
    keys: Keys

    def plain(self) -> dict[str, Any]:
        """As plain data."""
        return {"mode": self.mode, "keys": {k.id: k.plain() for k in self.keys}}
