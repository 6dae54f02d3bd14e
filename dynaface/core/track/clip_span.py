"""The part of a clip that is worked on: an in and an out, with handles on both sides."""

from dataclasses import dataclass

from dynaface.core.errors import InputError

MOST_HANDLES = 1000  # frames


@dataclass(frozen=True)
class ClipSpan:
    """first, last: the frames of a clip at its in and out; handles: frames before and after that are solved along."""

    first: int
    last: int
    handles: int = 0

    def __post_init__(self) -> None:
        if not 0 <= self.first <= self.last:
            raise InputError(
                f"the clip's in is frame {self.first} and its out frame {self.last}",
                hint="The in must come before the out",
            )
        if not 0 <= self.handles <= MOST_HANDLES:
            raise InputError(f"handles of {self.handles} frames", hint=f"They must be 0 to {MOST_HANDLES} frames long")

    def within(self, frames: int) -> tuple[int, int]:
        """(first, last) with handles, as far as a clip of so many frames has them; raises InputError where its in lies beyond it."""
        if self.first >= frames:
            raise InputError(
                f"the clip's in is frame {self.first}, but the clip has {frames} frames", hint="Set in and out anew"
            )
        return max(0, self.first - self.handles), min(frames - 1, self.last + self.handles)
