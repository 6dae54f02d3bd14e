"""Handing a role of a shot over: one character a file, with the shot's sound and the props that it holds beside it."""

from collections.abc import Mapping
from dataclasses import asdict, replace
from typing import Any

from dynaface.core.records.records import Job
from dynaface.pipelines.bake_handover import bake_handover, parse_handover, with_check
from dynaface.pipelines.progress import Progress
from dynaface.services.handover.deliver_take import at_handover_rate, file_name, keep_handover
from dynaface.services.handover.props_of_role import props_of_role
from dynaface.services.shot.evaluate_shot import PreparedRole, prepare_role
from dynaface.services.shot.shot_sound import shot_wav
from dynaface.services.work import Work


def request_role_handover(work: Work, shot: str, role: str, settings: Mapping[str, Any]) -> Job:
    """Queues the handover of a role; raises InputError at once for settings that cannot be met, or a role without a character."""
    parsed = parse_handover(settings)
    prepared = prepare_role(work, shot, role)
    _ = prepared.performance
    with work.store.unit() as unit:
        request = {"shot": shot, "role": role, "settings": asdict(parsed)}
        production = prepared.snapshot.documents.shot.production
        job = unit.jobs.add(production, work.person, "role handover", f"Hand over {label_of(prepared)}"[:120], request)
    work.defer(job.id)
    return job


def make_role_handover(work: Work, job: Job, progress: Progress) -> dict[str, Any]:
    """The work itself, in the worker: bakes, checks, stores; the job's result names the handover."""
    progress(0.02, "evaluating the shot")
    settings = parse_handover(job.request["settings"])
    shot = job.request["shot"]
    prepared = prepare_role(work, shot, job.request["role"])
    rig, character = prepared.snapshot.rig, prepared.snapshot.character
    data = work.media.get(rig.media) if rig else None
    skeleton = character.skeleton if character else None
    label = label_of(prepared)
    name = file_name(label)
    made = at_handover_rate(prepared.performance, settings.rate)
    sound = shot_wav(work, shot)
    about = {"file": f"{name}.wav", "offsetSeconds": 0.0}
    baked = bake_handover(
        made,
        data,
        skeleton,
        settings,
        name,
        about,
        work.node,
        progress,
    )
    files = {**baked.files, f"{name}.wav": sound}
    if settings.glb:
        for file, raw, check in props_of_role(work, prepared, made, label):
            files[file] = raw
            baked = with_check(baked, check)
    baked = replace(baked, files=files)
    return keep_handover(work, job, shot, label, settings, baked)


def label_of(prepared: PreparedRole) -> str:
    """Shot and character, or performer where there is none."""
    shot, role = prepared.snapshot.documents.shot.body, prepared.snapshot.role
    return f"{shot.name} {prepared.snapshot.character_name or role.performer}".strip()
