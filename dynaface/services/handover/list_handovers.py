"""Handovers that were made, and their files."""

import io
import zipfile

from dynaface.core.errors import NotFoundError
from dynaface.core.handover.file_name import file_name
from dynaface.core.records.records import Handover
from dynaface.services.work import Work, allow, identity


def list_handovers(work: Work, production: str) -> list[Handover]:
    """All handovers of a production, newest first."""
    with work.store.unit() as unit:
        allow(unit, production, work.person)
        return unit.jobs.handovers_of(production)


def handover_file(work: Work, handover: str, number: int) -> tuple[str, bytes]:
    """(name, bytes) of one file of a handover."""
    found = _handover(work, handover)
    if not 0 <= number < len(found.files):
        raise NotFoundError("there is no such handover file")
    file = found.files[number]
    return file["name"], work.media.get(file["media"])


def handover_archive(work: Work, handover: str) -> tuple[str, bytes]:
    """(name, bytes) of a ZIP with all files of a handover."""
    found = _handover(work, handover)
    out = io.BytesIO()
    with zipfile.ZipFile(out, "w", zipfile.ZIP_DEFLATED, compresslevel=1) as archive:
        for file in found.files:
            archive.writestr(zipfile.ZipInfo(file["name"]), work.media.get(file["media"]), zipfile.ZIP_DEFLATED)
    return f"{file_name(found.label)}.zip", out.getvalue()


def _handover(work: Work, handover: str) -> Handover:
    with work.store.unit() as unit:
        found = unit.jobs.handover(identity(handover, "handover"))
        if found is None:
            raise NotFoundError("there is no such handover file")
        allow(unit, found.production, work.person)
    return found
