"""How long work says how far it is."""

from collections.abc import Callable

# (part, message): part of the work that is done, 0..1, and what is being done.
Progress = Callable[[float, str], None]


def quiet(_part: float, _message: str) -> None:
    """Says nothing."""
