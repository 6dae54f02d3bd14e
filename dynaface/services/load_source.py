"""Core objects of stored sources. Sources never change, so what was read once is kept for a while."""

from dataclasses import replace
from functools import lru_cache
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
from dynaface.core.records.records import Source
from dynaface.core.sound.sound import Sound
from dynaface.core.track.footage import Footage
from dynaface.formats.catalogue import format_of
from dynaface.formats.gltf.character import read_character
from dynaface.formats.gltf.geometry import read_geometry
from dynaface.formats.head_file import general_face
from dynaface.services.work import Work


@lru_cache(maxsize=16)
def _recording(store: Any, source: str) -> Recording:
    with store.unit() as unit:
        found: Source = unit.sources.get(source)
        times = unit.sources.read_block(source, "times:f8")
        values = unit.sources.read_block(source, "values:f4")
    if times is None or values is None:
        raise NotFoundError("the curves of this source are not in the database")
    info = found.info
    rate = parse_rate(info["nominalRate"])
    timecode: Timecode | None = None
    if info.get("timecode"):
        label = parse_timecode(info["timecode"], parse_rate(info["timecodeRate"]))
        timecode = replace(label, fraction=info["timecodeFraction"])
    names = tuple(m["channel"] for m in info["matched"])
    return Recording(names, times[:, 0], values, rate, timecode)


def load_recording(work: Work, source: Source) -> Recording:
    """The curves of a source as the device wrote them."""
    return _recording(work.store, source.id)


@lru_cache(maxsize=8)
def _read(media: Any, medium: str, name: str) -> Any:
    data = media.get(medium)
    return format_of(data, name).read(data)


def load_sound(work: Work, source: Source) -> Sound:
    """The sound of a source."""
    sound: Sound = _read(work.media, source.media, source.name)
    return sound


def load_motion(work: Work, source: Source) -> Motion:
    """The body motion of a source."""
    motion: Motion = _read(work.media, source.media, source.name)
    return motion


def load_markers(work: Work, source: Source) -> MarkerTake:
    """The markers of a source."""
    markers: MarkerTake = _read(work.media, source.media, source.name)
    return markers


def load_footage(work: Work, source: Source) -> Footage:
    """The footage of a source."""
    footage: Footage = _read(work.media, source.media, source.name)
    return footage


@lru_cache(maxsize=8)
def _studied(media: Any, medium: str) -> Study:
    return study_character(read_character(media.get(medium)), _geometry(media, medium), general_face())


@lru_cache(maxsize=8)
def _character(store: Any, media: Any, source: str) -> Character:
    with store.unit() as unit:
        found: Source = unit.sources.get(source)
    data = media.get(found.media)
    plain = read_character(data, found.name)
    study = parse_study(found.info.get("study", {}))
    if study is None:
        # Worked out once from the mesh, and kept with what is known of the file.
        study = _studied(media, found.media)
        with store.unit() as unit:
            unit.sources.note(source, study=study.describe())
    return replace(plain, study=study)


def load_character(work: Work, source: Source) -> Character:
    """The character of a source, with what its mesh says."""
    return _character(work.store, work.media, source.id)


@lru_cache(maxsize=3)
def _geometry(media: Any, medium: str) -> Geometry:
    return read_geometry(media.get(medium))


def read_meshes(work: Work, medium: str) -> Geometry:
    """The meshes of a glTF binary by its medium; raises InputError."""
    return _geometry(work.media, medium)


def load_geometry(work: Work, source: Source) -> Geometry:
    """The meshes of a character's source."""
    return _geometry(work.media, source.media)
