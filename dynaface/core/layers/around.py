"""What a maker sees besides what lies beneath it: where its character's eyes are, what they can look at, what is said."""

from collections.abc import Mapping
from dataclasses import dataclass, field

from dynaface.core.head.eyes import PERSON, Eyes
from dynaface.core.layers.profile import BUILT_IN, Profile
from dynaface.core.layers.weight import Amounts
from dynaface.core.speech.words import Word


@dataclass(frozen=True)
class Aim:
    """Something to look at. at: metres in the character's own space, (3,) or (frames, 3); on_head: where it is while the head is at
    rest, and it goes along with the head.
    """

    at: Amounts
    on_head: bool = False


@dataclass(frozen=True)
class Around:
    """eyes of the character; aims by key; words: in seconds of the shot; profiles of blinks by name."""

    eyes: Eyes = PERSON
    aims: Mapping[str, Aim] = field(default_factory=dict)
    words: tuple[Word, ...] = ()
    profiles: Mapping[str, Profile] = field(default_factory=lambda: BUILT_IN)


NOTHING = Around()
