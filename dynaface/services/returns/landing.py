"""Where the layer of what came back goes: a role of a shot, and how its clock lies to that of what was handed over."""

from dataclasses import dataclass
from fractions import Fraction

from dynaface.core.documents.model.record import Body
from dynaface.core.documents.model.shot import ShotBody
from dynaface.core.documents.model.take import TakeBody
from dynaface.core.errors import InputError
from dynaface.services.shot.make_shot import make_shot
from dynaface.services.shot.snapshot import read_shot
from dynaface.services.take.prepare_take import prepare_take
from dynaface.services.work import Work, document_for


@dataclass(frozen=True)
class Landing:
    """shot, role: where the layer goes; later: seconds by which the shot's clock is ahead of that of the document that was handed over; begun: whether the shot
    was begun for it.
    """

    shot: str
    role: str
    later: float = 0.0
    begun: bool = False


def landing_of(work: Work, document: str, role: str, onto: str = "", key: str = "") -> Landing:
    """Where what was handed over of a take or shot lands. role: of the shot that was handed over; onto: the shot or take that is open; key: of a shot that is
    begun where there is none for a take.
    """
    with work.store.snapshot() as unit:
        found = document_for(work, unit, document, Body)
        opened = document_for(work, unit, onto, Body) if onto else None
    if isinstance(found.body, ShotBody):
        chosen = role if role in found.body.roles else next(iter(found.body.ordered), "")
        if not chosen:
            raise InputError(f"{found.body.name} has no role any more", hint="Bring its roles back first")
        return Landing(document, chosen)
    if not isinstance(found.body, TakeBody):
        raise InputError("what was handed over is no take and no shot")
    start = float(prepare_take(work, document).performance.channels.start)
    if opened is not None and isinstance(opened.body, ShotBody):
        placed = _placed(work, opened.id, document)
        if placed is None:
            raise InputError(
                f"{opened.body.name} has no clip of {found.body.slate}", hint="Open a shot that has one, or the take"
            )
        return Landing(opened.id, placed[0], placed[1] - start)
    shot = make_shot(work, found.production, f"{found.body.slate}, brought back"[:80], takes=[document], key=key)
    (only,) = shot.body.ordered
    return Landing(shot.id, only, -start, begun=True)


def _placed(work: Work, shot: str, take: str) -> tuple[str, float] | None:
    """(role, seconds of the shot at the take's first frame) of the first clip of a take that plays at its own speed; None for none."""
    with work.store.snapshot() as unit:
        found = read_shot(work, unit, shot)
    body = found.shot.body
    for role in body.ordered:
        for _, entry in sorted(body.roles[role].placements.items(), key=lambda p: Fraction(p[1].start)):
            clip = found.clips.get(entry.clip)
            if clip and clip.take and clip.take.id == take and Fraction(entry.speed) == 1:
                return role, float(Fraction(entry.start) - Fraction(entry.first))
    return None
