"""Handing a take over: asking for it, and making it in the worker."""

import re
from collections.abc import Mapping
from dataclasses import asdict
from typing import Any

from dynaface.core.body.join import perform, stand
from dynaface.core.clock.rates import parse_rate
from dynaface.core.curves.rerate import at_rate
from dynaface.core.errors import NotFoundError
from dynaface.core.records.records import Handover, Job
from dynaface.services.bake_handover import Progress, bake_handover, parse_handover
from dynaface.services.evaluate_take import Bench, performance_of, prepare, tidied_channels
from dynaface.services.work import Work, allow, document_for, identity


def request_handover(work: Work, take: str, settings: Mapping[str, Any]) -> Job:
    """Queues the handover of a take; raises InputError at once for settings that cannot be met."""
    parsed = parse_handover(settings)
    bench = prepare(work, take)
    label = f"Hand over {bench.take.body['slate']}"
    with work.store.unit() as unit:
        found = document_for(work, unit, take, "take")
        request = {"take": take, "settings": asdict(parsed)}
        job = unit.jobs.add(found.production, work.person, "handover", label, request)
    work.defer(job.id)
    return job


def make_handover(work: Work, job: Job, progress: Progress) -> dict[str, Any]:
    """The work itself, in the worker: bakes, checks, stores; the job's result names the handover."""
    progress(0.02, "evaluating the take")
    settings = parse_handover(job.request["settings"])
    bench = prepare(work, job.request["take"])
    performance = _at(bench, settings.rate)
    character = work.media.get(bench.character_source.media) if bench.character_source else None
    skeleton = bench.character.skeleton if bench.character else None
    name = file_name(bench.take.body["slate"])
    sound = _sound(work, bench)
    baked = bake_handover(performance, character, skeleton, settings, name, sound, work.node, progress)
    files = []
    for file, raw in baked.files.items():
        media, size = work.media.put_bytes(raw)
        files.append({"name": file, "media": media, "size": size})
    with work.store.unit() as unit:
        made = unit.jobs.add_handover(
            job.production, bench.take.id, bench.take.body["slate"], asdict(settings), dict(baked.report), files
        )
    return {"handover": made.id, "ok": baked.report["ok"]}


def _at(bench: Bench, rate: str) -> Any:
    if not rate or parse_rate(rate) == tidied_channels(bench).rate or bench.character is None:
        return performance_of(bench)
    channels = at_rate(tidied_channels(bench), parse_rate(rate))
    skeleton = bench.character.skeleton
    stance = stand(channels, skeleton, bench.body, bench.settings) if skeleton else None
    weight = bench.settings.head_weight if bench.body is not None else None
    return perform(channels, bench.character, bench.sheet, stance, weight)


def _sound(work: Work, bench: Bench) -> dict[str, Any] | None:
    held = bench.take.body["sources"].get("sound")
    if not held:
        return None
    with work.store.unit() as unit:
        source = unit.sources.get(held)
    return {"file": source.name, "offsetSeconds": bench.take.body["soundOffset"]} if source else None


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
