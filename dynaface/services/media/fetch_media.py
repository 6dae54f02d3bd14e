"""The bytes and the wave of a source."""

import numpy as np

from dynaface.core.errors import NotFoundError
from dynaface.core.records.records import Source
from dynaface.services.take.import_take import PEAKS_A_SECOND
from dynaface.services.work import Work, source_for
from dynaface.store.media import Medium


def fetch_source(work: Work, source: str) -> tuple[Source, Medium]:
    """The source and its bytes, to be read in parts."""
    with work.store.unit() as unit:
        found = source_for(work, unit, source)
    return found, work.media.open(found.media)


def fetch_peaks(work: Work, source: str) -> tuple[int, np.ndarray]:
    """(buckets a second, (buckets, 2) lowest and highest sample) of a sound."""
    with work.store.unit() as unit:
        source_for(work, unit, source)
        peaks = unit.sources.read_block(source, "peaks:f4")
    if peaks is None:
        raise NotFoundError("this source has no sound")
    return PEAKS_A_SECOND, peaks
