"""Handing over takes, shots and roles of shots: asking for it, and making it in the worker, one or many with one report."""

from collections.abc import Mapping, Sequence
from dataclasses import asdict, dataclass
from typing import Any

from dynaface.core.documents.model.record import Body
from dynaface.core.documents.model.shot import ShotBody
from dynaface.core.documents.model.take import TakeBody
from dynaface.core.errors import CancelledError, DynafaceError, InputError
from dynaface.core.records.records import Job
from dynaface.formats.handover import within
from dynaface.pipelines.bake_handover import (
    Baked,
    HandoverSettings,
    bake_handover,
    parse_handover,
    with_file,
    with_manifest,
)
from dynaface.pipelines.progress import Progress
from dynaface.services.handover.deliver_shot import deliver_shot, label_of, roles_with_characters
from dynaface.services.handover.deliver_take import deliver_take
from dynaface.services.handover.made import Made
from dynaface.services.shot.evaluate_shot import prepare_role
from dynaface.services.take.prepare_take import prepare_take
from dynaface.services.work import Work, document_for, identity

KIND = "handover"
MOST = 200  # of one batch


@dataclass(frozen=True)
class Subject:
    """What is handed over: a take or shot; role: of the shot, "" for all that have a character."""

    document: str
    role: str = ""


def request_handover(work: Work, take: str, settings: Mapping[str, Any]) -> Job:
    """Queues the handover of a take; raises InputError at once for settings that cannot be met."""
    parsed = parse_handover(settings)
    return _queue(work, [Subject(take)], parsed, prepare_take(work, take).take.body.slate)


def request_role_handover(work: Work, shot: str, role: str, settings: Mapping[str, Any]) -> Job:
    """The same of a role of a shot, "" for all that have a character; also for a role without one."""
    parsed = parse_handover(settings)
    prepared = prepare_role(work, shot, role or roles_with_characters(work, shot)[0])
    _ = prepared.performance
    label = label_of(prepared) if role else prepared.snapshot.documents.shot.body.name
    return _queue(work, [Subject(shot, role)], parsed, label)


def request_handovers(work: Work, production: str, documents: Sequence[str], settings: Mapping[str, Any]) -> Job:
    """Queues one job that hands over several takes and shots of a production; raises InputError for none or too many."""
    parsed = parse_handover(settings)
    if not 1 <= len(documents) <= MOST:
        raise InputError(f"{len(documents)} takes and shots are chosen", hint=f"Choose 1 to {MOST}")
    identity(production, "production")
    with work.store.unit() as unit:
        for document in documents:
            found = document_for(work, unit, document, Body)
            if found.production != production or not isinstance(found.body, TakeBody | ShotBody):
                raise InputError(f"{document} is no take and no shot of this production")
    subjects = [Subject(d) for d in dict.fromkeys(documents)]
    label = _name(work, subjects[0]) if len(subjects) == 1 else f"{len(subjects)} takes and shots"
    return _queue(work, subjects, parsed, label)


def _queue(work: Work, subjects: Sequence[Subject], settings: HandoverSettings, label: str) -> Job:
    with work.store.unit() as unit:
        production = document_for(work, unit, subjects[0].document, Body).production
        request = {"subjects": [asdict(s) for s in subjects], "settings": settings.plain}
        job = unit.jobs.add(production, work.person, KIND, f"Hand over {label}"[:120], request)
    work.defer(job.id)
    return job


def make_handovers(work: Work, job: Job, progress: Progress) -> dict[str, Any]:
    """The work itself, in the worker: bakes, checks, stores. Of several, one that fails does not stop the others: the job's result says of each
    what became of it.
    """
    settings = parse_handover(job.request["settings"])
    subjects = [Subject(**s) for s in job.request["subjects"]]
    rows: list[dict[str, Any]] = []
    for number, subject in enumerate(subjects):
        try:
            rows.append(_make(work, job, subject, settings, within(progress, number, len(subjects)), number))
        except CancelledError:
            raise
        except DynafaceError as error:
            if len(subjects) == 1:
                raise
            rows.append(
                {
                    "document": subject.document,
                    "label": _name(work, subject),
                    "ok": False,
                    "said": str(error),
                    "handover": None,
                }
            )
    return {"handover": rows[0]["handover"], "ok": all(r["ok"] for r in rows), "made": rows}


def _make(
    work: Work, job: Job, subject: Subject, settings: HandoverSettings, progress: Progress, number: int
) -> dict[str, Any]:
    progress(0.02, "evaluating")
    made = _deliver(work, subject, settings)
    baked = bake_handover(made.delivery, settings, work.node, progress)
    for name, data, check in made.beside():
        baked = with_file(baked, name, data, check)
    baked = with_manifest(baked, made.delivery, settings, made.of)
    kept = _keep(work, job, made, settings, baked, number)
    return {"document": subject.document, "label": made.label, "ok": baked.report["ok"], "said": "", "handover": kept}


def _deliver(work: Work, subject: Subject, settings: HandoverSettings) -> Made:
    with work.store.unit() as unit:
        found = document_for(work, unit, subject.document, Body)
        production = unit.people.production_name(found.production)
    if isinstance(found.body, TakeBody):
        return deliver_take(work, subject.document, settings, production)
    roles = [subject.role] if subject.role else roles_with_characters(work, subject.document)
    return deliver_shot(work, subject.document, roles, settings, production)


def _name(work: Work, subject: Subject) -> str:
    with work.store.unit() as unit:
        body = document_for(work, unit, subject.document, Body).body
    return body.slate if isinstance(body, TakeBody) else body.name if isinstance(body, ShotBody) else ""


def _keep(work: Work, job: Job, made: Made, settings: HandoverSettings, baked: Baked, number: int) -> str:
    """Stores baked files with their report, once for each job and subject; gives the handover's id."""
    files = []
    for file, raw in baked.files.items():
        media, size = work.media.put_bytes(raw)
        files.append({"name": file, "media": media, "size": size})
    what = f"handover {number}" if number else KIND
    with work.store.unit() as unit:
        kept = unit.jobs.add_handover(
            job.production, made.document, made.label, settings.plain, dict(baked.report), files, work.made(what)
        )
    return kept.id
