"""Making footage ready: a proxy for scrubbing, its sound as the take's sound, landmarks found once for all solves."""

from collections.abc import Iterator
from fractions import Fraction
from tempfile import TemporaryFile
from typing import Any

import cv2
import numpy as np
from numpy.typing import NDArray

from dynaface.core.documents.model.take import TakeBody
from dynaface.core.records.records import Job, Source
from dynaface.core.track.footage import Footage
from dynaface.formats.clip_sound import write_clip_sound
from dynaface.formats.entries import video
from dynaface.pipelines.progress import Progress
from dynaface.services.edit_document import edit_document
from dynaface.services.footage.measure_footage import landmarks_of
from dynaface.services.load_source import load_footage
from dynaface.services.media.add_sound import add_sound
from dynaface.services.take.import_take import PEAKS_A_SECOND
from dynaface.services.work import Work, document_for, source_within

PROXY_HEIGHT = 540


def prepare_footage(work: Work, job: Job, progress: Progress) -> dict[str, Any]:
    """The work itself, in the worker."""
    with work.store.unit() as unit:
        take = document_for(work, unit, job.request["take"], TakeBody)
        source = source_within(unit, take.production, take.body.sources.footage or "", "footage")
    footage = load_footage(work, source)
    landmarks_of(work, job, source, footage, lambda part, words: progress(0.9 * part, words))
    if "proxy" not in source.info:
        progress(0.92, "making the proxy")
        with TemporaryFile() as out:
            video.write(out, _smaller(footage), _even(footage.rate), quality=23, group=12)
            media, _ = work.media.put_file(out)
        with work.store.unit() as unit:
            unit.sources.note(source.id, proxy=media)
    if footage.sound and take.body.sources.sound is None:
        _take_sound(work, take.id, take.version, source, footage.seconds)
    return {"source": source.id}


def _even(rate: Fraction) -> Fraction:
    return rate.limit_denominator(1001)


def _smaller(footage: Footage) -> Iterator[NDArray[np.uint8]]:
    for picture in footage.pictures():
        scale = PROXY_HEIGHT / picture.shape[0]
        if scale >= 1:
            yield picture
        else:
            size = (round(picture.shape[1] * scale / 2) * 2, PROXY_HEIGHT)
            yield np.asarray(cv2.resize(picture, size, interpolation=cv2.INTER_AREA))


def _take_sound(work: Work, take: str, version: int, source: Source, seconds: float) -> None:
    with TemporaryFile() as out:
        findings, peaks = write_clip_sound(work.media.open(source.media), seconds, out, PEAKS_A_SECOND)
        stored = work.media.put_file(out)
    name = f"{source.name.rsplit('.', 1)[0]}.wav"
    with work.store.unit() as unit:
        made, _ = add_sound(work, unit, source.production, name, stored, findings, peaks)
    edit_document(work, take, version, f"sound of {source.name}", [{"path": "sources/sound", "value": made.id}])
