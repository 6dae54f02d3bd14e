"""match.json: which joint of a character is which of a body (docs/formats.md)."""

import json
from collections.abc import Mapping
from dataclasses import dataclass, field

from dynaface.core.errors import InputError
from dynaface.core.match.match_settings import Degrees
from dynaface.core.perform.join_settings import parse_turns
from dynaface.formats.json_file import read_table


@dataclass(frozen=True)
class MatchFile:
    """matches: joint of the character -> joint of the body, "" for one that is left alone; turns: joint of the character -> degrees by
    which its rest is corrected; confidence: 0..1 of matches, for whoever reads the file.
    """

    matches: Mapping[str, str]
    turns: Mapping[str, Degrees] = field(default_factory=dict)
    confidence: Mapping[str, float] = field(default_factory=dict)


def write_match(match: MatchFile) -> bytes:
    """The file's bytes."""
    plain = {"matches": dict(match.matches), "turns": {n: list(t) for n, t in match.turns.items()}, "confidence": dict(match.confidence)}  # fmt: skip
    return (json.dumps(plain, indent=1, ensure_ascii=False) + "\n").encode()


def read_match(data: bytes) -> MatchFile:
    """The match; raises InputError."""
    plain = read_table(data, "the match")
    matches = plain.get("matches")
    if not isinstance(matches, dict) or not all(isinstance(v, str) for v in matches.values()):
        raise InputError("matches must be a table of joints of the body by joint of the character", where="matches")
    return MatchFile(matches, parse_turns(plain.get("turns", {})))
