"""A sound that we made ourselves, kept as a source with the peaks that are drawn of it."""

from typing import Any

from dynaface.core.curves.channels import Floats
from dynaface.core.records.records import Source
from dynaface.services.work import Work
from dynaface.store.unit import Unit


def add_sound(
    work: Work, unit: Unit, production: str, name: str, stored: tuple[str, int], findings: dict[str, Any], peaks: Floats
) -> tuple[Source, bool]:
    """(the source, whether it is new: the same job makes it once). stored: (medium, bytes) of the sound as a WAV; findings: what is
    said of it; peaks: (buckets, 2), PEAKS_A_SECOND of them.
    """
    identity = work.made("sound")
    there = unit.sources.get(identity)
    if there is not None:
        return there, False
    made = unit.sources.add(production, "sound", name, *stored, findings, identity)
    unit.sources.write_block(made.id, "peaks:f4", peaks)
    return made, True
