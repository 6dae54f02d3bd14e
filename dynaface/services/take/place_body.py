"""Where the body of a take begins, by how long after its face it was recorded."""

from dynaface.core.documents.model.join import JoinBody
from dynaface.core.perform.join import nudge_to
from dynaface.services.edit_document import change_document
from dynaface.services.take.open_take import open_take
from dynaface.services.take.prepare_take import prepare_take
from dynaface.services.work import Work

LEAST = 0.0005  # frames of the face by which a body is moved at least


def place_body(work: Work, take: str, after: float, label: str) -> bool:
    """Moves a take's body to begin some seconds after its face; False where it is there already."""
    prepared = prepare_take(work, take)
    body = prepared.snapshot.body
    nudge = nudge_to(prepared.raw, body.timecode if body else None, after)
    join = open_take(work, take).join
    if abs(nudge - join.body.nudge) < LEAST:
        return False
    change_document(work, join.id, JoinBody, join.version, label, [{"path": "nudge", "value": round(nudge, 4)}])
    return True
