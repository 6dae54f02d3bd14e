"""Where a performer is most extreme, over all takes: each as a pose of the character, with what goes through itself there."""

from typing import Any

import numpy as np

from dynaface.core.cast.crossings import WORDS, find_crossings
from dynaface.core.cast.outermost import find_extremes
from dynaface.core.cast.ways import WAYS
from dynaface.core.documents.model.take import TakeBody
from dynaface.core.errors import DynafaceError
from dynaface.core.perform.perform import Performance
from dynaface.core.records.records import Document
from dynaface.services.edit_document import Wanted
from dynaface.services.take.prepare_take import PreparedTake, prepare_take
from dynaface.services.take.snapshot import Wish, read_documents
from dynaface.services.work import Work

MAX_TAKES = 40


def browse_extremes(work: Work, take: str, cast: Wanted = ()) -> list[dict[str, Any]]:
    """One pose for each way of the face, the most extreme over all takes of the take's performer, on the take's character.

    cast: changes of the stored sheet that are wished for. Each: way, value, take, slate, frame, words (what crosses), and
    the pose as the page draws it: targets, weights, still, joints, motion, shifted, shifts.
    """
    with work.store.snapshot() as unit:
        opened = read_documents(work, unit, take)
        performer = opened.take.body.performer
        takes = [t for t in unit.documents.of_kind(opened.take.production, TakeBody)
                 if t.body.performer == performer and t.body.sources.curves and not t.body.archived]  # fmt: skip
    best: dict[str, tuple[float, PreparedTake, int]] = {}
    for found in takes[-MAX_TAKES:]:
        try:
            prepared = prepare_take(work, found.id)
            extremes = find_extremes(prepared.tidied)
        except DynafaceError:
            continue  # one take that cannot be evaluated keeps nobody from seeing the others
        for extreme in extremes:
            if extreme.way not in best or extreme.value > best[extreme.way][0]:
                best[extreme.way] = (extreme.value, prepared, extreme.frame)
    if opened.character is None or not best:
        return []
    # The take's own character and sheet serve for all takes of the performer; each take is put on it once.
    ours = prepare_take(work, take, Wish(cast=cast))
    played: dict[str, Performance] = {}
    for _, prepared, _ in best.values():
        if prepared.take.id not in played:
            played[prepared.take.id] = prepared.alone_on(ours).performance
    return [
        _pose(way, value, prepared.take, frame, ours, played[prepared.take.id])
        for way, (value, prepared, frame) in ((w, best[w]) for w in WAYS if w in best)
    ]


def _pose(
    way: str, value: float, take: Document[TakeBody], frame: int, ours: PreparedTake, made: Performance
) -> dict[str, Any]:
    study = ours.snapshot.character.study if ours.snapshot.character else None
    row = made.cast.weights[frame : frame + 1]
    crossed = find_crossings(made.cast.targets, row, study.edges) if study else []
    head = [made.joints.index(j) for j in made.head_joints]
    return {
        "way": way,
        "value": round(value, 3),
        "take": take.id,
        "slate": take.body.slate,
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
