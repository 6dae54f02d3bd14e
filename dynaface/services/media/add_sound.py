"""A sound that we made ourselves, kept as a source with the peaks that are drawn of it."""

from dynaface.core.records.records import Source
from dynaface.core.sound.sound import Sound, peaks
from dynaface.formats.entries import wav
from dynaface.services.take.import_take import PEAKS_A_SECOND
from dynaface.services.work import Work
from dynaface.store.unit import Unit


def add_sound(
    work: Work, unit: Unit, production: str, name: str, sound: Sound, stored: tuple[str, int]
) -> tuple[Source, bool]:
    """(the source, whether it is new: the same job makes it once). stored: (medium, bytes) of the sound as a WAV."""
    identity = work.made("sound")
    there = unit.sources.get(identity)
    if there is not None:
        return there, False
    made = unit.sources.add(production, "sound", name, *stored, wav.FORMAT.check(sound), identity)
    unit.sources.write_block(made.id, "peaks:f4", peaks(sound, PEAKS_A_SECOND))
    return made, True
