"""A character's file in any form that we read, with its mesh studied: for the command line and for benches."""

from dataclasses import replace

from dynaface.core.cast.character import Character
from dynaface.core.cast.geometry import Geometry
from dynaface.core.cast.study_character import study_character
from dynaface.formats.catalogue import SNIFF
from dynaface.formats.gltf.character import read_character
from dynaface.formats.gltf.geometry import read_geometry
from dynaface.formats.gltf.pack import is_archive, is_plain, pack
from dynaface.formats.head_file import general_face


def open_character(data: bytes, name: str = "", studied: bool = True) -> tuple[Character, Geometry, bytes]:
    """(the character, with its study unless that is not asked for, its meshes, its bytes as one glTF binary); raises
    InputError.
    """
    packed = is_archive(data[:SNIFF] + data[-SNIFF:]) or is_plain(data[:SNIFF])
    binary = pack(data) if packed else data
    plain, geometry = read_character(binary, name), read_geometry(binary)
    study = study_character(plain, geometry, general_face()) if studied else None
    return replace(plain, study=study), geometry, binary
