"""The words of a take's sound: found by its text in the worker, kept as a document that is corrected by hand."""

from collections.abc import Sequence
from typing import Any

from dynaface.core import checks
from dynaface.core.documents.model.record import parse
from dynaface.core.documents.model.take import TakeBody
from dynaface.core.documents.model.words import WordsBody, entry_of
from dynaface.core.errors import InputError
from dynaface.core.records.records import Document, Job, Source
from dynaface.core.speech.guess import guess_words
from dynaface.core.speech.words import Word
from dynaface.pipelines.find_words import LANGUAGES, find_words
from dynaface.pipelines.progress import Progress
from dynaface.services.edit_document import change_document
from dynaface.services.jobs.request_jobs import queue_job
from dynaface.services.load_source import load_sound
from dynaface.services.shot.snapshot import words_key
from dynaface.services.work import Work, add_document, document_for, source_within


def request_words(work: Work, take: str, text: str, language: str) -> Job:
    """Queues looking for the words of a take's sound; text: "" to guess them. Raises InputError at once for a take without sound or a
    language that is not known.
    """
    checks.one_of("language", language, LANGUAGES)
    found, _ = sound_of(work, take)
    request = {"take": take, "text": text, "language": language}
    return queue_job(work, found.production, "words", f"Words of {found.body.slate}"[:120], request)


def make_words(work: Work, job: Job, progress: Progress) -> dict[str, Any]:
    """The work itself, in the worker."""
    take, source = sound_of(work, job.request["take"])
    words = listen(work, source, job.request["text"], job.request["language"], progress)
    keep_words(work, take, source, words, job.request["text"], job.request["language"])
    return {"words": len(words)}


def sound_of(work: Work, take: str) -> tuple[Document[TakeBody], Source]:
    """A take with its sound; raises InputError where it has none."""
    with work.store.snapshot() as unit:
        found = document_for(work, unit, take, TakeBody)
        if not found.body.sources.sound:
            raise InputError(f"{found.body.slate} has no sound", hint="Bring in a WAV first")
        return found, source_within(unit, found.production, found.body.sources.sound, "sound")


def listen(work: Work, source: Source, text: str, language: str, progress: Progress) -> list[Word]:
    """The words of a sound by its text, guessed without one; raises InputError where nothing is said."""
    sound = load_sound(work, source)
    words = find_words(sound, text, language, progress) if text.strip() else guess_words(sound)
    if not words:
        raise InputError("nothing is said in this sound", hint="Give its text")
    return words


def keep_words(
    work: Work, take: Document[TakeBody], source: Source, words: Sequence[Word], text: str, language: str
) -> Document[WordsBody]:
    """Words in place of those that the sound had; it can be undone."""
    table = {f"w{n:04d}": entry_of(w).plain() for n, w in enumerate(words)}
    with work.store.unit() as unit:
        there = unit.documents.by_key(take.production, WordsBody, words_key(source.id))
        if there is None:
            body = {"sound": source.id, "text": text[:4000], "language": language, "words": table}
            return add_document(unit, take.production, parse(WordsBody, body, "the words"), words_key(source.id))
    changes: list[dict[str, Any]] = [
        {"path": "words", "value": table},
        {"path": "text", "value": text[:4000]},
        {"path": "language", "value": language},
    ]
    return change_document(work, there.id, WordsBody, there.version, f"words of {take.body.slate}"[:120], changes)
