"""Making footage ready: a proxy for scrubbing, its sound as the take's sound, landmarks found once for all solves."""

from collections.abc import Iterator
from fractions import Fraction
from typing import Any

import cv2
import numpy as np
from numpy.typing import NDArray

from dynaface.core.records.records import Job, Source
from dynaface.core.sound.sound import peaks
from dynaface.core.track.footage import Footage
from dynaface.core.track.landmarks import POINTS, LandmarkFinder, Landmarks
from dynaface.formats.entries import video, wav
from dynaface.formats.head_file import landmark_model
from dynaface.services.bake_handover import Progress
from dynaface.services.edit_document import edit_document
from dynaface.services.import_take import PEAKS_A_SECOND
from dynaface.services.load_source import load_footage
from dynaface.services.work import Work, document_for, source_for

PART = "landmarks:f4"
PROXY_HEIGHT = 540
EVERY = 10  # frames between words about progress


def prepare_footage(work: Work, job: Job, progress: Progress) -> dict[str, Any]:
    """The work itself, in the worker."""
    with work.store.unit() as unit:
        take = document_for(work, unit, job.request["take"], "take")
        source = source_for(work, unit, take.body["sources"]["footage"])
    footage = load_footage(work, source)
    landmarks_of(work, source, footage, progress)
    if "proxy" not in source.info:
        progress(0.92, "making the proxy")
        media, _ = work.media.put_bytes(video.encode(_smaller(footage), _even(footage.rate), quality=23, group=12))
        with work.store.unit() as unit:
            unit.sources.note(source.id, proxy=media)
    if footage.sound and "sound" not in take.body["sources"]:
        _take_sound(work, take.id, take.version, source)
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


def landmarks_of(work: Work, source: Source, footage: Footage, progress: Progress) -> list[Landmarks | None]:
    """Landmarks of each picture, found now or kept from before."""
    with work.store.unit() as unit:
        kept = unit.sources.read_block(source.id, PART)
    if kept is not None and len(kept):
        return [unpacked(row) for row in kept]
    rows = []
    with LandmarkFinder(landmark_model(), float(footage.rate)) as finder:
        for number, picture in enumerate(footage.pictures()):
            if number % EVERY == 0:
                progress(0.9 * number / footage.frames, f"frame {number} of {footage.frames}")
            rows.append(packed(finder.find(picture)))
    with work.store.unit() as unit:
        unit.sources.drop_block(source.id, PART)
        unit.sources.write_block(source.id, PART, np.array(rows, np.float32))
    return [unpacked(row) for row in rows]


def packed(found: Landmarks | None) -> NDArray[np.float32]:
    """(1008,) pixels of the points, then the scores; NaN where no face was seen."""
    if found is None:
        return np.full(2 * POINTS + 52, np.nan, np.float32)
    return np.concatenate([found.points.ravel(), found.scores]).astype(np.float32)


def unpacked(row: NDArray[np.float32]) -> Landmarks | None:
    """The other way."""
    if np.isnan(row[0]):
        return None
    return Landmarks(row[: 2 * POINTS].reshape(POINTS, 2), row[2 * POINTS :])


def _take_sound(work: Work, take: str, version: int, source: Source) -> None:
    sound = video.sound_of(work.media.get(source.media))
    raw = wav.write(sound)
    media, size = work.media.put_bytes(raw)
    name = f"{source.name.rsplit('.', 1)[0]}.wav"
    with work.store.unit() as unit:
        made = unit.sources.add(source.production, "sound", name, media, size, wav.FORMAT.check(sound))
        unit.sources.write_block(made.id, "peaks:f4", peaks(sound, PEAKS_A_SECOND))
    edit_document(work, take, version, f"sound of {source.name}", [{"path": "sources/sound", "value": made.id}])
