"""A channel of a take in an edit of keys: keys are edited as they are; on a dense channel what is drawn or brushed becomes a
correction on top, so that what lies beneath stays.
"""

import numpy as np

from dynaface.core.curves import key_edits
from dynaface.core.curves.channels import Floats
from dynaface.core.curves.gaps import bridged
from dynaface.core.curves.held import Held
from dynaface.core.curves.keys import Key, Keys
from dynaface.core.curves.reduce import reduce
from dynaface.core.errors import InputError
from dynaface.core.keying.case import KeyCase, Made, corrected


class HandCase(KeyCase):
    """What was done by hand on one channel of a take."""

    @property
    def keys(self) -> Keys:
        """Its keys; raises InputError where it holds none."""
        if self.held is None:
            raise InputError(f"{self.channel} holds no keys", hint="Reduce it to keys first, or draw on it")
        return self.held.keys

    def with_keys(self, keys: Keys) -> Made:
        """The channel with other keys in the same mode."""
        assert self.held is not None
        return {self.channel: Held(self.held.mode, keys)}

    def with_curve(self, first: int, curve: Floats) -> Made:
        """The channel so that it is `curve` from frame `first` on, as keys or as a correction on top."""
        if self.held is not None and self.held.mode == "keys":
            return {self.channel: Held("keys", key_edits.reshape(self.held.keys, first, curve, self.tolerance))}
        offset = curve - np.nan_to_num(self.column.beneath[first : first + len(curve)])
        keys = self.held.keys if self.held else ()
        return {self.channel: Held("offset", corrected(keys, 0.0, first, offset, self.tolerance, self.frames))}

    def said(self, frame: float, value: float | None) -> float | None:
        """In a correction, what is left of the value over what lies beneath."""
        if value is None or self.held is None or self.held.mode != "offset":
            return value
        return value - float(np.interp(frame, np.arange(self.frames), np.nan_to_num(self.column.beneath)))

    def reduced(self) -> Made:
        """The channel as it is now, as keys; raises InputError where nothing is known of it."""
        made = reduce(self.column.now, self.column.rate, self.tolerance)
        if not made.keys:
            raise InputError(f"{self.channel} has no values at all", hint="Choose another channel")
        return {self.channel: Held("keys", made.keys)}

    def begun(self) -> Made:
        """A correction of nothing, where there is none."""
        if self.held is not None:
            return {self.channel: self.held}
        last = float(self.frames - 1)
        return {self.channel: Held("offset", (Key(0.0, 0.0, kind="flat"), Key(last, 0.0, kind="flat")))}

    def restored(self, first: int, last: int, raw: bool) -> Made:
        """A range as the tidy stack gives it, or the device."""
        earlier = self.column.raw if raw else self.column.beneath
        return self.with_curve(first, bridged(earlier[first : last + 1, None])[:, 0])
