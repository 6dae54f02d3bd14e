"""What files of a handover are called."""

import re
from collections.abc import Mapping

from dynaface.core.errors import InputError

WORDS = ("name", "production", "take", "shot", "character", "performer", "rate", "timecode", "date")
PATTERN = "{name}"
LONGEST = 120
_WORD = re.compile(r"\{([^{}]*)\}")


def parse_pattern(pattern: object) -> str:
    """The pattern, if it holds only words that are known; raises InputError."""
    if not isinstance(pattern, str) or not 0 < len(pattern) <= LONGEST:
        raise InputError(f"the pattern of names is {pattern!r:.80}; it must be a text of 1 to {LONGEST} letters")
    unknown = [w for w in _WORD.findall(pattern) if w not in WORDS]
    if unknown or "{" in _WORD.sub("", pattern) or "}" in _WORD.sub("", pattern):
        raise InputError(f"the pattern of names {pattern!r} has no sense at {unknown[0] if unknown else 'a bracket'!r}",
                         hint=f"Words are {', '.join('{' + w + '}' for w in WORDS)}")  # fmt: skip
    return pattern


def named_by(pattern: str, words: Mapping[str, str]) -> str:
    """A file name without its ending; what a pattern names and is not known is left out."""
    return file_name(_WORD.sub(lambda found: words.get(found[1], ""), pattern))


def file_name(text: str) -> str:
    """A file name made of a slate."""
    return re.sub(r"[^A-Za-z0-9.-]+", "_", text).strip("_.-") or "take"
