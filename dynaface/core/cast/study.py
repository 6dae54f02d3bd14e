"""What was found out about a character from its mesh, once, when it came in."""

from collections.abc import Mapping
from dataclasses import dataclass, field
from typing import Any

import numpy as np
from numpy.typing import NDArray

from dynaface.core.cast.joints import JointDrive, parse_drive
from dynaface.core.cast.match import Match
from dynaface.core.contact.head_surface import HeadSurface, parse_head_surface

VERSION = 2  # of what is kept: an older study is made again


@dataclass(frozen=True)
class Edge:
    """Two rims that meet: gap: (stations,) metres between them at rest, below 0 where they pass each other; change:
    target -> (stations,) metres by which the gap grows at its whole weight; size: metres across (mouth or eye).
    """

    gap: NDArray[np.float64]
    change: Mapping[str, NDArray[np.float64]]
    size: float

    def columns(self, targets: tuple[str, ...]) -> NDArray[np.float64]:
        """(targets, stations) change for targets in this order; 0 for those that leave the gap alone."""
        none = np.zeros(len(self.gap))
        return np.array([self.change.get(t, none) for t in targets]).reshape(len(targets), len(self.gap))


@dataclass(frozen=True)
class Study:
    """matches: target -> what drives it, for names that say nothing; guesses: the same, not sure
    enough to be used before somebody looked; drives: "joint:channel" -> proposed joint drive;
    edges: by "lips", "lid left", "lid right", "teeth upper", "teeth lower"; travel: "open to aside" and "open to forward" of the
    jaw; measures: how far each way goes, as a share of the face, and degrees of jaw and lip travel; head: its surface, which hands
    touch.
    """

    matches: Mapping[str, Match] = field(default_factory=dict)
    guesses: Mapping[str, Match] = field(default_factory=dict)
    drives: Mapping[str, JointDrive] = field(default_factory=dict)
    edges: Mapping[str, Edge] = field(default_factory=dict)
    travel: Mapping[str, float] = field(default_factory=dict)
    measures: Mapping[str, float] = field(default_factory=dict)
    head: HeadSurface | None = None

    def describe(self) -> dict[str, Any]:
        """As plain data, to be kept."""
        return {
            "version": VERSION,
            "matches": {t: _plain(m) for t, m in self.matches.items()},
            "guesses": {t: _plain(m) for t, m in self.guesses.items()},
            "drives": {k: d.describe() for k, d in self.drives.items()},
            "edges": {
                n: {"gap": _short(e.gap), "size": round(e.size, 7), "change": {t: _short(c) for t, c in e.change.items()}}
                for n, e in self.edges.items()
            },
            "travel": {k: round(v, 4) for k, v in self.travel.items()},
            "measures": {k: round(v, 5) for k, v in self.measures.items()},
            "head": self.head and self.head.describe(),
        }  # fmt: skip


def _plain(match: Match) -> dict[str, Any]:
    return {"parts": dict(match.parts), "how": match.how, "confidence": match.confidence}


def _match(plain: Mapping[str, Any]) -> Match:
    return Match(tuple(plain["parts"].items()), plain["how"], plain["confidence"])


def _short(values: NDArray[np.float64]) -> list[float]:
    return [round(float(v), 7) for v in values]


def parse_study(data: Mapping[str, Any]) -> Study | None:
    """A study that was kept; None where it is of an older version."""
    if data.get("version") != VERSION:
        return None
    return Study(
        {t: _match(m) for t, m in data["matches"].items()},
        {t: _match(m) for t, m in data["guesses"].items()},
        {k: parse_drive(k, d) for k, d in data["drives"].items()},
        {
            n: Edge(np.array(e["gap"]), {t: np.array(c) for t, c in e["change"].items()}, e["size"])
            for n, e in data["edges"].items()
        },
        dict(data["travel"]),
        dict(data["measures"]),
        parse_head_surface(data["head"]) if data.get("head") else None,
    )
