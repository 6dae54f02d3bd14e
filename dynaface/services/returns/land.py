"""Making layers of what came back on a role, and saying what they do not reach."""

from collections.abc import Iterable, Sequence
from dataclasses import dataclass, replace
from pathlib import PurePath
from typing import Any

import numpy as np

from dynaface.core.body.rotations import multiply
from dynaface.core.documents.model.layer import SpanEntry
from dynaface.core.layers.layer import widened
from dynaface.core.returns.brought import of_performance, turned_by
from dynaface.core.returns.compare import Difference
from dynaface.core.returns.put_right import Righted
from dynaface.core.returns.returned_layer import Axes, Clock, channels_of, described, returned_layer
from dynaface.services.returns.landing import Landing, landing_of
from dynaface.services.returns.onto_face import onto_face
from dynaface.services.returns.recognise import HandedOver
from dynaface.services.shot.evaluate_shot import PreparedRole, prepare_role
from dynaface.services.shot.make_shot import add_layer
from dynaface.services.shot.snapshot import no_character
from dynaface.services.work import Work

NEAR = {"weight": (0.01, ""), "turn": (0.5, " degrees")}
"""Below what a character shows what came back, in the unit of it."""


@dataclass(frozen=True)
class Landed:
    """A character of a file that came back. role: of the shot that was handed over; job: that brings it back: all its files of a take land in one shot; key: of what is made of
    it, the same in each attempt; file: its name; onto: the take or
    shot that is open; as_face: what it shows otherwise becomes a change of the performance as far as that goes.
    """

    handed: HandedOver
    role: str
    righted: Righted
    job: str
    key: str
    file: str
    onto: str = ""
    as_face: bool = False


@dataclass(frozen=True)
class _Part:
    """What one layer holds. face: whether it acts on the performance, or on the rig."""

    found: Sequence[Difference]
    clock: Clock
    axes: Axes
    face: bool


def land(work: Work, own: Landed, found: list[Difference]) -> list[dict[str, Any]]:
    """Makes a layer, or one of the face and one of the rig; what the job's result says of each."""
    place = landing_of(work, own.handed.document, own.role, own.onto, f"return {own.job} {own.handed.document}")
    prepared = prepare_role(work, place.shot, place.role)
    shot = prepared.snapshot.documents.shot.body
    base = own.righted.base
    clock = Clock(own.righted.at, base.rate, own.handed.start + place.later, shot.fps, shot.frames)
    said, left, parts = "", list[str](), [_Part(found, clock, Axes(), True)]
    if not base.face:
        found, lost = _on_this_rig(prepared, found)
        said = f"the character of this role has no {', '.join(lost[:8])}: left out" if lost else ""
        axes = _axes(prepared, own)
        parts = [_Part(found, clock, axes, False)]
        if own.as_face:
            split = onto_face(work, prepared, found, clock, axes)
            left = split.left
            parts = [
                _Part(split.face, Clock.of(shot.fps, shot.frames), Axes(), True),
                _Part(split.rest, clock, axes, False),
            ]
    rows = [_layer(work, own, place, prepared, part, n) for n, part in enumerate(parts) if part.found]
    if not rows:
        return [
            {
                "said": said or "what is different lies outside of the shot, or nothing of it can be a layer",
                "left": left,
            }
        ]
    for row, part in zip(rows, [p for p in parts if p.found], strict=True):
        row |= {"said": said, "left": left if part.face else _left(work, place, own.righted, part)}
    return rows


def _layer(work: Work, own: Landed, place: Landing, prepared: PreparedRole, part: _Part, number: int) -> dict[str, Any]:
    names = list(dict.fromkeys(n for one in part.found for n in channels_of(one)))
    beneath = widened(prepared.graph.tidied.result(work.cache), names) if part.face else prepared.rig_with({}, names)
    layer = returned_layer(part.found, part.clock, beneath, part.axes)
    row: dict[str, Any] = {
        "differences": [described(one, part.clock) for one in part.found],
        "shot": place.shot,
        "face": part.face,
    }
    if not layer.spans:
        return row
    spans = {f"s{n}": SpanEntry.of(span).plain() for n, span in enumerate(layer.spans)}
    name = PurePath(own.file).stem[:80]
    made = add_layer(work, place.shot, place.role, name, "replace", [], not part.face, spans, f"{own.key} {number}")
    return {**row, "layer": made.id, "role": place.role, "begun": place.begun}


def _on_this_rig(prepared: PreparedRole, found: Iterable[Difference]) -> tuple[list[Difference], list[str]]:
    """(differences that the role's character can show, names that it does not have)."""
    rig = prepared.snapshot.character
    if rig is None:
        raise no_character()
    joints = set(rig.skeleton.names) if rig.skeleton else set()
    own, lost = [], []
    for one in found:
        joint = one.of if one.of in joints else one.of.replace("_", " ")
        if one.part == "weight" and one.of in rig.targets:
            own.append(one)
        elif one.part in ("turn", "place") and joint in joints:
            own.append(replace(one, of=joint))
        else:
            lost.append(one.of)
    return own, list(dict.fromkeys(lost))


def _axes(prepared: PreparedRole, own: Landed) -> Axes:
    rig = prepared.snapshot.character
    if rig is None or rig.skeleton is None:
        return Axes()
    return Axes.of(rig.skeleton, own.righted.base.world, own.handed.lying)


def _left(work: Work, place: Landing, righted: Righted, part: _Part) -> list[str]:
    """By how much the role, with its new layer, is still not what came back: hands that are held and limits of targets come last."""
    prepared = prepare_role(work, place.shot, place.role)
    rig = prepared.snapshot.character
    now = of_performance(prepared.performance, rig.skeleton if rig else None)
    out = []
    for one in part.found:
        frames = np.array(sorted({f for a, b in part.clock.runs(one) for f in range(a, b + 1)}))
        if not len(frames) or one.part == "place":
            continue
        there, base = part.clock.there(frames), righted.base.at(part.clock.handed(frames))
        if one.part == "weight":
            meant = base.curves[one.of] + one.at(there)
            apart = float(np.abs(now.curves[one.of][frames] - meant).max())
        elif one.of in base.turns and not righted.base.world:
            meant = multiply(base.turns[one.of], one.at(there))
            apart = float(turned_by(now.turns[one.of][frames], meant).max())
        else:
            continue
        least, unit = NEAR[one.part]
        if apart > least:
            out.append(f"{one.of} is {apart:.2g}{unit} from what came back at most")
    return out
