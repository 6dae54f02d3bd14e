"""Feet held anew where contacts become others: only the frames that depend on them, so that a drag answers at once in a long take."""

from collections.abc import Sequence
from dataclasses import replace

import numpy as np

from dynaface.core.body.skeleton import Motion
from dynaface.core.contact.find_feet import FootContacts, Spans, marked
from dynaface.core.contact.hold_feet import hold_feet, lead_of

REACH = 4  # leads beyond a contact within which it moves a body: feet that come and go, and hips that sink and rise
BESIDE = 3  # leads beyond that in which contacts count for what lies within


def changed_frames(
    before: Sequence[FootContacts], after: Sequence[FootContacts], motion: Motion
) -> tuple[int, int] | None:
    """(first, stop) of the frames that are held otherwise, first == stop where none is; None where all may be."""
    if [(c.side, c.floor) for c in before] != [(c.side, c.floor) for c in after]:
        return None
    first, stop = motion.frames, 0
    for was, now in zip(before, after, strict=True):
        other = np.zeros(motion.frames, bool)
        for place in ("heel", "toe", "foot"):
            other |= marked(getattr(was, place), motion.frames) != marked(getattr(now, place), motion.frames)
        for a, b in (*was.foot, *now.foot):
            # Where a foot stands depends on the whole of its contact.
            if other[a : b + 1].any():
                first, stop = min(first, a), max(stop, b + 1)
    if first >= stop:
        return 0, 0
    reach = REACH * lead_of(motion.rate)
    return max(first - reach, 0), min(stop + reach, motion.frames)


def held_part(motion: Motion, contacts: Sequence[FootContacts], first: int, stop: int) -> Motion:
    """Frames first..stop - 1 of `hold_feet(motion, contacts)`; rotations may have the other sign."""
    beside = BESIDE * lead_of(motion.rate)
    low, high = max(first - beside, 0), min(stop + beside, motion.frames)
    near = [s for c in contacts for s in c.foot if s[0] < high and s[1] >= low]
    low, high = min([low, *(a for a, _ in near)]), max([high, *(b + 1 for _, b in near)])

    def own(spans: Spans) -> Spans:
        return tuple((max(a, low) - low, min(b, high - 1) - low) for a, b in spans if a < high and b >= low)

    cut = replace(motion, local=motion.local[low:high], root=motion.root[low:high])
    held = hold_feet(cut, [replace(c, heel=own(c.heel), toe=own(c.toe), foot=own(c.foot)) for c in contacts])
    return replace(held, local=held.local[first - low : stop - low], root=held.root[first - low : stop - low])
