"""Where a performer is most extreme, over all takes: each as a pose of the character, with what goes through itself there."""

from dataclasses import replace
from typing import Any

import numpy as np

from dynaface.core.body.join import Performance
from dynaface.core.cast.crossings import WORDS, find_crossings
from dynaface.core.cast.outermost import find_extremes
from dynaface.core.cast.ways import WAYS
from dynaface.core.errors import DynafaceError
from dynaface.services.evaluate_take import Bench, Overrides, performance_of, prepare, tidied_channels
from dynaface.services.open_take import open_take
from dynaface.services.work import Work

MAX_TAKES = 40


def browse_extremes(work: Work, take: str, cast: dict[str, Any] | None = None) -> list[dict[str, Any]]:
    """One pose for each way of the face, the most extreme over all takes of the take's performer, on the take's character.

    cast: what stands in place of fields of the stored sheet. Each: way, value, take, slate, frame, words (what crosses), and
    the pose as the page draws it: targets, weights, still, joints, motion, shifted, shifts.
    """
    opened = open_take(work, take)
    production, performer = opened["take"].production, opened["take"].body["performer"]
    with work.store.unit() as unit:
        takes = [t for t in unit.documents.of_kind(production, "take")
                 if t.body["performer"] == performer and "curves" in t.body["sources"] and not t.body.get("archived")]  # fmt: skip
    best: dict[str, tuple[float, Bench, int]] = {}
    for found in takes[-MAX_TAKES:]:
        try:
            bench = prepare(work, found.id, Overrides(cast=cast))
            extremes = find_extremes(tidied_channels(bench))
        except DynafaceError:
            continue  # one take that cannot be evaluated keeps nobody from seeing the others
        for extreme in extremes:
            if extreme.way not in best or extreme.value > best[extreme.way][0]:
                best[extreme.way] = (extreme.value, bench, extreme.frame)
    if opened["character"] is None or not best:
        return []
    # The take's own character and sheet serve for all takes of the performer; each take is put on it once.
    ours = prepare(work, take, Overrides(cast=cast))
    played: dict[str, Performance] = {}
    for _, bench, _ in best.values():
        if bench.take.id not in played:
            on_ours = replace(
                bench, character=ours.character, character_source=ours.character_source, sheet=ours.sheet, body=None
            )
            played[bench.take.id] = performance_of(on_ours)
    return [
        _pose(way, value, bench, frame, ours, played[bench.take.id])
        for way, (value, bench, frame) in ((w, best[w]) for w in WAYS if w in best)
    ]


def _pose(way: str, value: float, bench: Bench, frame: int, ours: Bench, made: Performance) -> dict[str, Any]:
    study = ours.character.study if ours.character else None
    row = made.cast.weights[frame : frame + 1]
    crossed = find_crossings(made.cast.targets, row, study.edges) if study else []
    head = [made.joints.index(j) for j in made.head_joints]
    return {
        "way": way,
        "value": round(value, 3),
        "take": bench.take.id,
        "slate": bench.take.body["slate"],
        "frame": frame,
        "words": [f"{WORDS[c.kind]}, {c.depth:.1f} mm" for c in crossed],
        "targets": list(made.cast.targets),
        "weights": np.round(row[0], 4).tolist(),
        "still": [list(pair) for pair in made.cast.still],
        "joints": list(made.head_joints),
        "motion": made.local[frame, head].ravel().round(5).tolist(),
        "shifted": list(made.shifts),
        "shifts": [round(float(v), 6) for s in made.shifts.values() for v in s[frame]],
    }
