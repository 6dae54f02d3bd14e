"""Characters as .gltf: with their files in a .zip, or with everything inside. They are kept as a glTF binary."""

from dynaface.core.cast.character import Character
from dynaface.core.errors import InputError
from dynaface.formats.format import Format
from dynaface.formats.gltf.character import describe_character, read_character
from dynaface.formats.gltf.pack import MAX_BYTES, is_archive, is_plain, pack


def detect(head: bytes) -> bool:
    """An archive that holds a .gltf, or the .gltf itself."""
    return is_archive(head) or is_plain(head)


def read(data: bytes) -> Character:
    """The character; raises InputError."""
    if not detect(data[:65536] + data[-65536:]):
        raise InputError("this is no glTF with its files", hint="Put the .gltf and its files into one .zip")
    return read_character(pack(data))


FORMAT = Format("gltf archive", "glTF character with its files (.zip, .gltf)", "character", (".zip", ".gltf"), detect, read,
                None, describe_character, MAX_BYTES)  # fmt: skip
