"""Handing a take over: asking for it, and making it in the worker."""

import re
from collections.abc import Mapping
from dataclasses import asdict
from typing import Any

from dynaface.core.clock.rates import parse_rate
from dynaface.core.documents.model.take import TakeBody
from dynaface.core.errors import NotFoundError
from dynaface.core.perform.perform import Performance
from dynaface.core.perform.rerate import performance_at
from dynaface.core.records.records import Handover, Job
from dynaface.pipelines.bake_handover import Baked, HandoverSettings, bake_handover, parse_handover
from dynaface.pipelines.progress import Progress
from dynaface.services.take.prepare_take import PreparedTake, prepare_take
from dynaface.services.work import Work, allow, document_for, identity


def request_handover(work: Work, take: str, settings: Mapping[str, Any]) -> Job:
    """Queues the handover of a take; raises InputError at once for settings that cannot be met."""
    parsed = parse_handover(settings)
    label = f"Hand over {prepare_take(work, take).take.body.slate}"
    with work.store.unit() as unit:
        found = document_for(work, unit, take, TakeBody)
        request = {"take": take, "settings": asdict(parsed)}
        job = unit.jobs.add(found.production, work.person, "handover", label, request)
    work.defer(job.id)
    return job


def make_handover(work: Work, job: Job, progress: Progress) -> dict[str, Any]:
    """The work itself, in the worker: bakes, checks, stores; the job's result names the handover."""
    progress(0.02, "evaluating the take")
    settings = parse_handover(job.request["settings"])
    prepared = prepare_take(work, job.request["take"])
    performance = at_handover_rate(prepared.performance, settings.rate)
    rig, character = prepared.snapshot.documents.rig, prepared.snapshot.character
    data = work.media.get(rig.media) if rig else None
    skeleton = character.skeleton if character else None
    slate = prepared.take.body.slate
    name = file_name(slate)
    sound = _sound(prepared)
    baked = bake_handover(performance, data, skeleton, settings, name, sound, work.node, progress)
    return keep_handover(work, job, prepared.take.id, slate, settings, baked)


def keep_handover(
    work: Work, job: Job, document: str, label: str, settings: HandoverSettings, baked: Baked
) -> dict[str, Any]:
    """Stores baked files with their report, once for each job; gives the job's result."""
    files = []
    for file, raw in baked.files.items():
        media, size = work.media.put_bytes(raw)
        files.append({"name": file, "media": media, "size": size})
    with work.store.unit() as unit:
        made = unit.jobs.add_handover(
            job.production, document, label, asdict(settings), dict(baked.report), files, work.made("handover")
        )
    return {"handover": made.id, "ok": baked.report["ok"]}


def at_handover_rate(made: Performance, rate: str) -> Performance:
    """A performance at the rate of a handover, "" for its own."""
    return performance_at(made, parse_rate(rate)) if rate else made


def _sound(prepared: PreparedTake) -> dict[str, Any] | None:
    source = prepared.snapshot.sound
    return {"file": source.name, "offsetSeconds": prepared.take.body.sound_offset} if source else None


def file_name(text: str) -> str:
    """A file name made of a slate."""
    return re.sub(r"[^A-Za-z0-9]+", "_", text).strip("_") or "take"


def list_handovers(work: Work, production: str) -> list[Handover]:
    """All handovers of a production, newest first."""
    with work.store.unit() as unit:
        allow(unit, production, work.person)
        return unit.jobs.handovers_of(production)


def handover_file(work: Work, handover: str, number: int) -> tuple[str, bytes]:
    """(name, bytes) of one file of a handover."""
    with work.store.unit() as unit:
        found = unit.jobs.handover(identity(handover, "handover"))
        if found is None or not 0 <= number < len(found.files):
            raise NotFoundError("there is no such handover file")
        allow(unit, found.production, work.person)
    file = found.files[number]
    return file["name"], work.media.get(file["media"])
