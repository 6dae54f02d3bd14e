"""Files that come back: asking for it, and making layers of them in the worker."""

from collections.abc import Iterable, Mapping, Sequence
from dataclasses import asdict, dataclass, replace
from pathlib import PurePath
from typing import Any

import numpy as np

from dynaface.core.body.rotations import multiply
from dynaface.core.documents.model.layer import SpanEntry
from dynaface.core.documents.model.record import Body
from dynaface.core.documents.model.shot import ShotBody
from dynaface.core.documents.model.take import TakeBody
from dynaface.core.errors import CancelledError, DynafaceError, InputError
from dynaface.core.layers.layer import Layer, widened
from dynaface.core.records.records import Handover, Job
from dynaface.core.returns.brought import of_channels, of_performance, turned_by
from dynaface.core.returns.compare import Difference, differences
from dynaface.core.returns.put_right import Righted, put_right
from dynaface.core.returns.returned_layer import Axes, Clock, channels_of, described, returned_layer
from dynaface.formats.handover import within
from dynaface.formats.returned import read_returned, returning_form
from dynaface.pipelines.progress import Progress
from dynaface.services.handover.list_handovers import list_handovers
from dynaface.services.jobs.request_jobs import queue_job
from dynaface.services.media.uploaded import uploaded
from dynaface.services.returns.landing import Landing, landing_of
from dynaface.services.returns.recognise import HandedOver, figures_of, newest_of_form, rate_of, recognise
from dynaface.services.shot.evaluate_shot import PreparedRole, prepare_role
from dynaface.services.shot.make_shot import add_layer
from dynaface.services.shot.snapshot import no_character
from dynaface.services.take.prepare_take import prepare_take
from dynaface.services.work import Work, allow, document_for

KIND = "return"
MOST = 40  # files at once


@dataclass(frozen=True)
class GivenFile:
    """A file that was uploaded."""

    media: str
    name: str


def request_return(work: Work, production: str, files: Sequence[Mapping[str, str]], onto: str = "") -> Job:
    """Queues the making of layers of files that come back. onto: the take or shot that is open. Raises InputError for none, too many, or a file that
    cannot come back.
    """
    with work.store.unit() as unit:
        allow(unit, production, work.person)
    if not 1 <= len(files) <= MOST:
        raise InputError(f"{len(files)} files are brought back", hint=f"Choose 1 to {MOST}")
    given = [GivenFile(f["media"], f["name"]) for f in files]
    for file in given:
        returning_form(file.name)
        uploaded(work, production, file.media)
    if onto:
        _of_production(work, onto, production)
    label = f"Bring back {given[0].name}" if len(given) == 1 else f"Bring back {len(given)} files"
    request = {"files": [asdict(f) for f in given], "onto": onto}
    return queue_job(work, production, KIND, label[:120], request)


def _of_production(work: Work, document: str, production: str) -> None:
    with work.store.snapshot() as unit:
        found = document_for(work, unit, document, Body)
    if found.production != production or not isinstance(found.body, TakeBody | ShotBody):
        raise InputError(f"{document} is no take and no shot of this production")


def make_returns(work: Work, job: Job, progress: Progress) -> dict[str, Any]:
    """The work itself, in the worker: the job's result says of each character of each file what is different, and which layer holds it. A file that fails
    does not stop the others.
    """
    handovers = list_handovers(work, job.production)
    files = [GivenFile(**f) for f in job.request["files"]]
    rows: list[dict[str, Any]] = []
    for number, file in enumerate(files):
        tell = within(progress, number, len(files))
        tell(0.05, f"reading {file.name}")
        try:
            rows += _bring(work, job, handovers, file, number, tell)
        except CancelledError:
            raise
        except DynafaceError as error:
            rows.append({"file": file.name, "ok": False, "said": str(error)})
    return {"ok": all(r["ok"] for r in rows), "returns": rows}


def _bring(
    work: Work, job: Job, handovers: Sequence[Handover], file: GivenFile, number: int, tell: Progress
) -> list[dict[str, Any]]:
    onto = job.request["onto"]
    handed = recognise(work, handovers, file.media, file.name)
    if handed is None and onto:
        handed = newest_of_form(work, handovers, file.name, onto) or _as_it_is(work, onto, file.name)
    if handed is None:
        raise InputError(f"nothing that was handed over is called like {file.name}", hint="Open the take or shot that it is of, and bring it back there")  # fmt: skip
    edited = read_returned(uploaded(work, job.production, file.media), file.name, rate_of(handed.figures))
    tell(0.4, f"comparing {file.name}")
    rows = []
    for part, (role, own, base) in enumerate(figures_of(handed, edited, file.name)):
        righted = put_right(own, base)
        found = differences(righted, handed.tolerance, handed.ends)
        row = {"file": file.name, "ok": True, "of": handed.file, "said": "", "putRight": list(righted.said),
               "unknown": list(righted.unknown), "absent": list(righted.absent), "layer": "", "shot": "", "role": "",
               "changed": _changed(work, handed), "differences": [], "left": []}  # fmt: skip
        if found:
            tell(0.6, f"making a layer of {file.name}")
            key = f"return {job.id} {number} {part}"
            row |= _land(work, handed, role, righted, found, onto, key, file.name)
        rows.append(row)
    return rows


def _changed(work: Work, handed: HandedOver) -> bool:
    """Whether the take or shot has changed since."""
    with work.store.snapshot() as unit:
        now = {d: unit.documents.get(d) for d in handed.versions}
    return any(found is None or found.version != handed.versions[d] for d, found in now.items())


def _as_it_is(work: Work, document: str, name: str) -> HandedOver:
    """A take or shot as if it had been handed over as it is now: where there is no handover that a file could be of."""
    with work.store.snapshot() as unit:
        body = document_for(work, unit, document, Body).body
    face = returning_form(name).name == "curve table"
    if isinstance(body, TakeBody):
        made = prepare_take(work, document)
        rig = made.snapshot.character
        one = of_channels(made.performance.channels) if face else of_performance(made.performance, rig.skeleton if rig else None)  # fmt: skip
        return HandedOver(name, document, {}, {"": one}, made.performance.channels.start)
    assert isinstance(body, ShotBody)
    roles, figures = {}, {}
    for key in body.ordered:
        prepared = prepare_role(work, document, key)
        rig = prepared.snapshot.character
        called = f"role {key}"
        if face:
            figures[called] = of_channels(prepared.graph.tidied.result(work.cache))
        elif rig is not None:
            figures[called] = of_performance(prepared.performance, rig.skeleton)
        roles[called] = key
    if not figures:
        raise no_character()
    return HandedOver(name, document, roles, figures, 0.0)


def _land(work: Work, handed: HandedOver, role: str, righted: Righted, found: list[Difference], onto: str, key: str, name: str) -> dict[str, Any]:  # fmt: skip
    """Makes the layer; what the job's result says of it."""
    landing = landing_of(work, handed.document, role, onto, key)
    prepared = prepare_role(work, landing.shot, landing.role)
    shot = prepared.snapshot.documents.shot.body
    clock = Clock(righted.at, righted.base.rate, handed.start + landing.later, shot.fps, shot.frames)
    face = righted.base.face
    said = []
    if not face:
        found, lost = _on_this_rig(prepared, found)
        if lost:
            said.append(f"the character of this role has no {', '.join(lost[:8])}: left out")
    axes = Axes() if face else _axes(prepared, righted, handed)
    names = list(dict.fromkeys(n for one in found for n in channels_of(one)))
    beneath = widened(prepared.graph.tidied.result(work.cache), names) if face else prepared.rig_with({}, names)
    layer = returned_layer(found, clock, beneath, axes)
    rows = [described(one, clock) for one in found]
    if not layer.spans:
        return {"differences": rows, "said": "what is different lies outside of the shot", "shot": landing.shot}
    made = add_layer(
        work, landing.shot, landing.role, PurePath(name).stem[:80], "replace", [], not face, _plain(layer), key
    )
    left = [] if face else _left(work, landing, righted, found, clock)
    return {"layer": made.id, "shot": landing.shot, "role": landing.role, "begun": landing.begun, "differences": rows, "left": left,
            "said": "; ".join(said)}  # fmt: skip


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


def _axes(prepared: PreparedRole, righted: Righted, handed: HandedOver) -> Axes:
    rig = prepared.snapshot.character
    if rig is None or rig.skeleton is None:
        return Axes()
    return Axes.of(rig.skeleton, righted.base.world, handed.lying)


def _plain(layer: Layer) -> dict[str, Any]:
    return {f"s{n}": SpanEntry.of(span).plain() for n, span in enumerate(layer.spans)}


def _left(work: Work, landing: Landing, righted: Righted, found: Sequence[Difference], clock: Clock) -> list[str]:
    """By how much the role, with its new layer, is still not what came back: hands that are held and limits of targets come last."""
    prepared = prepare_role(work, landing.shot, landing.role)
    rig = prepared.snapshot.character
    now = of_performance(prepared.performance, rig.skeleton if rig else None)
    out = []
    for one in found:
        frames = np.array(sorted({f for a, b in clock.runs(one) for f in range(a, b + 1)}))
        if not len(frames) or one.part == "place":
            continue
        there, base = clock.there(frames), righted.base.at(clock.handed(frames))
        if one.part == "weight":
            meant = base.curves[one.of] + one.at(there)
            apart, least, unit = float(np.abs(now.curves[one.of][frames] - meant).max()), 0.01, ""
        elif one.of in base.turns and not righted.base.world:
            meant = multiply(base.turns[one.of], one.at(there))
            apart, least, unit = float(turned_by(now.turns[one.of][frames], meant).max()), 0.5, " degrees"
        else:
            continue
        if apart > least:
            out.append(f"{one.of} is {apart:.2g}{unit} from what came back at most")
    return out
