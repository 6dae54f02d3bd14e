"""A take that has only sound gets a face: its words, and a shot in which the mouth says them, the eyes look and blink."""

from fractions import Fraction
from typing import Any
from uuid import uuid4

import numpy as np

from dynaface.core import checks
from dynaface.core.curves.channels import Channels
from dynaface.core.documents.model.layer import LayerBody
from dynaface.core.documents.model.shot import ShotBody
from dynaface.core.documents.model.take import TakeBody
from dynaface.core.errors import InputError
from dynaface.core.records.records import Document, Job
from dynaface.core.shapes.standard import HEAD_ANGLES, SHAPES
from dynaface.core.speech.words import Word, phrases
from dynaface.pipelines.find_words import LANGUAGES
from dynaface.pipelines.progress import Progress
from dynaface.services.edit_document import change_document
from dynaface.services.jobs.request_jobs import queue_job
from dynaface.services.load_source import load_sound
from dynaface.services.shot.make_shot import add_layer, make_shot
from dynaface.services.shot.snapshot import read_shot
from dynaface.services.speech.find_words import keep_words, listen, sound_of
from dynaface.services.take.store_curves import store_curves
from dynaface.services.work import Work

RATE = Fraction(60)
PAUSE = 0.35  # seconds without a word in which the eyes look aside
ASIDE = (0.35, 1.42, 1.1)  # metres
MAKERS: dict[str, tuple[tuple[str, dict[str, Any]], ...]] = {
    "mouth": (("speech", {"captured": "added to it"}),),
    "eyes": (("gaze", {"head": 0.4}), ("blinks", {"phrases": "yes", "rate": 10.0})),
    "alive": (("alive", {"where": "everywhere", "sway": 1.6, "eyes": 0.0}),),
}
"""layer -> makers with what differs from their usual parameters."""


def request_face(work: Work, take: str, text: str, language: str) -> Job:
    """Queues a face for a take of sound alone; raises InputError at once where it has curves, or no sound."""
    checks.one_of("language", language, LANGUAGES)
    found, _ = sound_of(work, take)
    if found.body.sources.curves:
        raise InputError(f"{found.body.slate} has a face already", hint="Use a maker of speech in a shot of it")
    return queue_job(
        work,
        found.production,
        "face",
        f"A face for {found.body.slate}"[:120],
        {"take": take, "text": text, "language": language},
    )


def make_face(work: Work, job: Job, progress: Progress) -> dict[str, Any]:
    """The work itself, in the worker; the job's result names the shot."""
    request = job.request
    take, source = sound_of(work, request["take"])
    words = listen(work, source, request["text"], request["language"], progress)
    progress(0.7, "making a face at rest and a shot")
    keep_words(work, take, source, words, request["text"], request["language"])
    if not take.body.sources.curves:
        curves = store_curves(
            work, take.production, "a face at rest", at_rest(load_sound(work, source).seconds), {"made": "at rest"}
        )
        change = {"path": "sources/curves", "value": curves.id}
        take = change_document(work, take.id, TakeBody, take.version, "a face at rest", [change])
    # An attempt that was cut off may have made part of it: what is there is taken up.
    shot = make_shot(work, take.production, f"{take.body.slate}, spoken"[:80], takes=[take.id], key=f"face {job.id}")
    _layers(work, _aims(work, shot), words)
    return {"shot": shot.id, "words": len(words)}


def at_rest(seconds: float) -> Channels:
    """A face that does nothing for so long."""
    names = (*SHAPES, *HEAD_ANGLES)
    return Channels(names, np.zeros((max(int(seconds * RATE), 2), len(names)), np.float32), RATE)


def _aims(work: Work, shot: Document[ShotBody]) -> Document[ShotBody]:
    if shot.body.aims:
        return shot
    aims = {
        "camera": {"name": "camera", "lies": "camera"},
        "aside": {"name": "aside", "lies": "point", "at": list(ASIDE)},
    }
    changes = [{"path": f"aims/{key}", "value": aim} for key, aim in aims.items()]
    return change_document(work, shot.id, ShotBody, shot.version, "aims", changes)


def _layers(work: Work, shot: Document[ShotBody], words: list[Word]) -> None:
    (role,) = shot.body.ordered
    with work.store.snapshot() as unit:
        there = {n.body.name for n in read_shot(work, unit, shot.id).layers if n.body.makers}
    for name, makers in MAKERS.items():
        if name in there:
            continue
        layer = add_layer(work, shot.id, role, name, "add", [])
        entries = [(maker, {**more, "looks": _looks(words)} if maker == "gaze" else more) for maker, more in makers]
        changes = [
            {"path": f"makers/{maker}", "value": {"maker": maker, "rank": float(n), **more}}
            for n, (maker, more) in enumerate(entries)
        ]
        change_document(work, layer.id, LayerBody, layer.version, f"make {name}", changes)


def _looks(words: list[Word]) -> dict[str, list[Any]]:
    """To the camera while words are said, aside in longer pauses between them."""
    said = phrases(words, PAUSE)
    rows: list[list[Any]] = [[0, "camera"]]
    for (_, ends), (begins, _) in zip(said, said[1:], strict=False):
        rows += [[round(ends * RATE), "aside"], [max(round((begins - 0.1) * RATE), round(ends * RATE) + 8), "camera"]]
    return {uuid4().hex[:12]: row for row in rows}
