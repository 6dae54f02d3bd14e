"""Sounds whose recorder ran at another speed than the face's, put right as a job in the worker."""

from typing import Any

from dynaface.core.documents.changes import path_of
from dynaface.core.documents.model.lineup import LineUpBody, key_of
from dynaface.core.documents.model.take import TakeBody
from dynaface.core.documents.model.words import WordsBody
from dynaface.core.errors import InputError
from dynaface.core.records.records import Document, Job, Source
from dynaface.core.sound.drift import without_drift
from dynaface.core.sound.sound import peaks
from dynaface.formats.entries import wav
from dynaface.pipelines.progress import Progress
from dynaface.services.edit_document import change_document, edit_document
from dynaface.services.jobs.request_jobs import queue_job
from dynaface.services.load_source import load_sound
from dynaface.services.media.add_sound import add_sound
from dynaface.services.shot.snapshot import words_key
from dynaface.services.take.import_take import PEAKS_A_SECOND
from dynaface.services.work import Work, add_document, document_for, source_within
from dynaface.store.unit import Unit

LEAST = 1.0  # parts of a million: less than a frame in a quarter of a day


def drift_of(lineup: LineUpBody, take: str) -> float:
    """By how many parts of a million the seconds of a take's sound last longer than those of its face."""
    sound, face = (lineup.sources.get(key_of(take, part)) for part in ("sound", "face"))
    return (sound.drift if sound else 0.0) - (face.drift if face else 0.0)


def request_drift_out(work: Work, lineup: Document[LineUpBody], take: Document[TakeBody]) -> Job:
    """Queues it for the sound that a take has now."""
    request = {
        "lineup": lineup.id,
        "take": take.id,
        "sound": take.body.sources.sound,
        "drift": drift_of(lineup.body, take.id),
    }
    return queue_job(work, lineup.production, "drift", f"Sound of {take.body.slate} on its face's clock"[:120], request)


def take_drift_out(work: Work, job: Job, progress: Progress) -> dict[str, Any]:
    """The work itself: {"source": the new sound}. What the take had is a step back in its history; its words come along."""
    take, drift = job.request["take"], float(job.request["drift"])
    with work.store.snapshot() as unit:
        found = document_for(work, unit, take, TakeBody)
        if found.body.sources.sound != job.request["sound"]:
            raise InputError("the take has another sound by now", hint="Line it up again")
        source = source_within(unit, found.production, job.request["sound"], "sound")
    progress(0.1, "reading the sound")
    given = load_sound(work, source)
    progress(0.3, "resampling")
    sound = without_drift(given, drift)
    progress(0.8, "storing")
    stored, drawn = work.media.put_bytes(wav.write(sound)), peaks(sound, PEAKS_A_SECOND)
    name = f"{source.name.rsplit('.', 1)[0]} on the face's clock.wav"
    with work.store.unit() as unit:
        made, is_new = add_sound(work, unit, found.production, name, stored, wav.FORMAT.check(sound), drawn)
        if is_new:
            _words_too(unit, source, made, 1 + drift / 1e6)
    edit_document(work, take, found.version, "sound on its face's clock", [{"path": "sources/sound", "value": made.id}])
    _drift_is_out(work, job.request["lineup"], take)
    return {"source": made.id}


def _words_too(unit: Unit, source: Source, made: Source, longer: float) -> None:
    """The words of a sound at the moments at which the new one has them."""
    kept = unit.documents.by_key(source.production, WordsBody, words_key(source.id))
    if kept is None:
        return
    words = {k: {**w.plain(), "first": w.first * longer, "last": w.last * longer} for k, w in kept.body.words.items()}
    body = WordsBody.model_validate({**kept.body.plain(), "sound": made.id, "words": words})
    add_document(unit, source.production, body, words_key(made.id))


def _drift_is_out(work: Work, lineup: str, take: str) -> None:
    """The line-up does not say any more that the sound drifts."""
    with work.store.snapshot() as unit:
        found = document_for(work, unit, lineup, LineUpBody)
    key = key_of(take, "sound")
    if key in found.body.sources:
        face = found.body.sources.get(key_of(take, "face"))
        change = {"path": path_of("sources", key, "drift"), "value": face.drift if face else 0.0}
        change_document(work, lineup, LineUpBody, found.version, "drift taken out", [change])
