"""When hands hold a prop that moves by itself, or touch one that stands: by how near skin is to its surface and how fast it goes against it."""

from collections.abc import Mapping
from fractions import Fraction

import numpy as np
from scipy.spatial import cKDTree

from dynaface.core.body.rotations import Array, inverse, rotate
from dynaface.core.contact.find_feet import spans_of
from dynaface.core.contact.find_hands import SHORT, Seen, touching_frames
from dynaface.core.contact.hands import PLACES
from dynaface.core.prop.holder import Holder
from dynaface.core.prop.prop import Hold, PlacedProp, PropShape, PropWay, own_way

REACH = 0.3  # metres of an adult's arm beyond which nothing is looked for on the surface


def find_holds(
    placed: PlacedProp, shape: PropShape, holders: Mapping[str, Holder], frames: int, rate: Fraction
) -> list[Hold]:
    """Holds of a prop by the hands of roles as they move, by time; where each lies in the palm is as it was found."""
    if not len(shape.points) or not frames:
        return []
    way = own_way(placed, shape, frames, rate)
    surface = cKDTree(shape.points * placed.size)
    out = []
    for role, holder in holders.items():
        rotations, positions = holder.pose()
        for side, hand in holder.hands.items():
            seen = []
            for name in PLACES:
                if name in hand.places:
                    own = _seen_from(way, hand.place(name, rotations, positions))
                    far, _ = surface.query(own, distance_upper_bound=REACH * hand.size)
                    far = np.minimum(far, REACH * hand.size)
                    seen.append(Seen(name, "", far - hand.skin(name), own))
            palm = _seen_from(way, holder.palm(side)[0]) / placed.size
            for first, last in spans_of(touching_frames(seen, float(rate), hand.size, 1.0, SHORT)):
                x, y, z = (float(v) for v in np.median(palm[first : last + 1], axis=0))
                out.append(Hold(role, side, first, last, (x, y, z)))
    return sorted(out, key=lambda h: (h.first, h.role, h.side))


def _seen_from(way: PropWay, places: Array) -> Array:
    """(frames, 3) metres of places in the shot from the prop's origin, as the prop is turned."""
    return rotate(inverse(way.turns), places - way.at)
