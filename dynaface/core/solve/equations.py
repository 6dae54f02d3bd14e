"""What is known of the weights, as a quadratic form."""

from dataclasses import dataclass

from dynaface.core.track.head import Array


@dataclass(frozen=True)
class Equations:
    """w'aw/2 - b'w, to be made small: a (shapes, shapes), b (shapes,)."""

    a: Array
    b: Array

    def __add__(self, other: "Equations") -> "Equations":
        return Equations(self.a + other.a, self.b + other.b)
