"""Core objects of stored sources. Sources never change, so what was read once is kept for a while."""

from dataclasses import replace
from typing import Any

from dynaface.core.body.skeleton import Motion
from dynaface.core.cast.character import Character
from dynaface.core.cast.geometry import Geometry
from dynaface.core.cast.study import Study, parse_study
from dynaface.core.cast.study_character import study_character
from dynaface.core.clock.rates import parse_rate
from dynaface.core.clock.timecode import Timecode, parse_timecode
from dynaface.core.curves.channels import Recording
from dynaface.core.errors import NotFoundError
from dynaface.core.markers.take import MarkerTake
from dynaface.core.prop.prop import PropShape
from dynaface.core.records.records import Source
from dynaface.core.sound.sound import Sound
from dynaface.core.track.footage import Footage
from dynaface.formats.bodies import read_bodies
from dynaface.formats.catalogue import format_of_stored
from dynaface.formats.gltf.character import read_character
from dynaface.formats.gltf.geometry import read_geometry
from dynaface.formats.gltf.prop import read_prop
from dynaface.formats.head_file import general_face
from dynaface.services.work import Work
from dynaface.store.unit import Unit


def load_recording(work: Work, unit: Unit, source: Source) -> Recording:
    """The curves of a source as the device wrote them."""
    return work.cache.get_or_make(f"recording {source.id}", lambda: _read_recording(unit, source))


def _read_recording(unit: Unit, source: Source) -> Recording:
    times = unit.sources.read_block(source.id, "times:f8")
    values = unit.sources.read_block(source.id, "values:f4")
    if times is None or values is None:
        raise NotFoundError("the curves of this source are not in the database")
    info = source.info
    rate = parse_rate(info["nominalRate"])
    timecode: Timecode | None = None
    if info.get("timecode"):
        label = parse_timecode(info["timecode"], parse_rate(info["timecodeRate"]))
        timecode = replace(label, fraction=info["timecodeFraction"])
    names = tuple(m["channel"] for m in info["matched"])
    return Recording(names, times[:, 0], values, rate, timecode)


def _read(work: Work, source: Source) -> Any:
    """What the file of a source holds, by the format that its content shows."""

    def make() -> Any:
        file = work.media.open(source.media)
        return format_of_stored(file, source.name).read_stored(file)

    return work.cache.get_or_make(f"medium {source.media} {source.name}", make)


def load_sound(work: Work, source: Source) -> Sound:
    """The sound of a source."""
    sound: Sound = _read(work, source)
    return sound


def load_motion(work: Work, source: Source) -> Motion:
    """The body motion of a source: of a file with several performers the one that it is of."""
    which = int(source.info.get("which", 0))
    bodies = work.cache.get_or_make(
        f"bodies {source.media} {source.name}", lambda: read_bodies(work.media.get(source.media), source.name)
    )
    return bodies[which].motion


def load_markers(work: Work, source: Source) -> MarkerTake:
    """The markers of a source."""
    markers: MarkerTake = _read(work, source)
    return markers


def load_footage(work: Work, source: Source) -> Footage:
    """The footage of a source."""
    footage: Footage = _read(work, source)
    return footage


def load_prop(work: Work, source: Source) -> PropShape:
    """The prop of a source: its surface and its own motion."""
    return work.cache.get_or_make(f"prop {source.media}", lambda: read_prop(work.media.get(source.media)))


def load_character(work: Work, source: Source) -> Character:
    """The character of a source, with what its mesh says; a study that an earlier release kept is made anew."""
    return work.cache.get_or_make(f"rig {source.id}", lambda: _read_character(work, source))


def _read_character(work: Work, source: Source) -> Character:
    plain = read_character(work.media.get(source.media), source.name)
    study = parse_study(source.info.get("study", {}))
    return replace(plain, study=study or study_of(work, source.media))


def study_of(work: Work, medium: str) -> Study:
    """What the meshes of a glTF binary say of its targets and joints."""

    def make() -> Study:
        return study_character(read_character(work.media.get(medium)), read_meshes(work, medium), general_face())

    return work.cache.get_or_make(f"study {medium}", make)


def read_meshes(work: Work, medium: str) -> Geometry:
    """The meshes of a glTF binary by its medium; raises InputError."""
    return work.cache.get_or_make(f"meshes {medium}", lambda: read_geometry(work.media.get(medium)))


def load_geometry(work: Work, source: Source) -> Geometry:
    """The meshes of a character's source."""
    return read_meshes(work, source.media)
