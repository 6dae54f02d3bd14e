"""Numbered pictures: PNG or JPEG files in a .zip, as footage. The archive is never unpacked to the disk."""

import re
import zipfile
from collections.abc import Iterator
from fractions import Fraction
from pathlib import PurePosixPath

import cv2
import numpy as np
from numpy.typing import NDArray

from dynaface.core.clock.rates import parse_rate
from dynaface.core.errors import InputError, LimitError
from dynaface.core.track.footage import Footage
from dynaface.formats.archive import Archive, open_archive
from dynaface.formats.footage_findings import MAX_SIDE, footage_findings
from dynaface.formats.format import Format
from dynaface.formats.stored import Held, Stored

MAX_PICTURES, MAX_PICTURE, MAX_ALL = 50_000, 64_000_000, 8_000_000_000
RATE = Fraction(30)  # where rate.txt does not say
_NAMED = re.compile(r"(\d+)\D*$")


def detect(head: bytes) -> bool:
    """An archive whose first file is a picture, a folder, or rate.txt, and which is no character with its pictures."""
    if head[:4] != b"PK\x03\x04" or len(head) < 30 or b".gltf" in head.lower():
        return False
    name = head[30 : 30 + int.from_bytes(head[26:28], "little")].decode("utf-8", "replace").lower()
    return name.endswith((".png", ".jpg", ".jpeg", "/", "rate.txt"))


def read(data: bytes) -> Footage:
    """The footage, its pictures still to be decoded; raises InputError for an archive that is none."""
    return read_in_place(Held(data))


def read_in_place(stored: Stored) -> Footage:
    """The same of an archive wherever it lies."""
    with stored.file() as file:
        known = detect(file.read(65536))
    if not known:
        raise InputError(
            "this is no archive of numbered pictures", where="byte 0", hint="Put PNG or JPEG files into a .zip"
        )
    with open_archive(stored, MAX_ALL) as archive:
        return _described(archive, stored)


def _described(archive: Archive, stored: Stored) -> Footage:
    wanted = [i for i in archive.members if i.filename.lower().endswith((".png", ".jpg", ".jpeg"))
              and not PurePosixPath(i.filename).name.startswith(".")]  # fmt: skip
    if not wanted:
        raise InputError("the archive has no PNG or JPEG in it")
    if len(wanted) > MAX_PICTURES:
        raise LimitError(f"the archive has {len(wanted)} pictures", hint=f"At most {MAX_PICTURES}; cut it into several")
    for info in wanted:
        if info.file_size > MAX_PICTURE:
            raise LimitError(
                f"{info.filename[:80]} says it is {info.file_size / 1e6:.0f} MB", hint="At most 64 MB a picture"
            )
    if sum(i.file_size for i in wanted) > MAX_ALL:
        raise LimitError("the pictures are more than 8 GB unpacked", hint="Cut the archive into several")
    numbered = sorted(((_number(i.filename), i) for i in wanted), key=lambda n: n[0])
    numbers = np.array([n for n, _ in numbered])
    if len(set(numbers.tolist())) != len(numbers):
        twice = int(numbers[1:][np.diff(numbers) == 0][0])
        raise InputError(f"two pictures have the number {twice}", hint="Put one clip into one archive")
    pictures = [i for _, i in numbered]
    names = [i.filename for i in pictures]
    width, height = picture_size(archive.read(pictures[0], MAX_PICTURE), names[0])
    rate = _rate(archive)
    return Footage(width, height, (numbers - numbers[0]) / float(rate), rate, PurePosixPath(names[0]).suffix[1:].lower(), False,
                   None, lambda first: _pictures(stored, pictures[first:], (width, height)))  # fmt: skip


def _number(name: str) -> int:
    found = _NAMED.search(PurePosixPath(name).stem)
    if found is None or len(found[1]) > 9:
        raise InputError(f"{name[:80]} has no number in its name", hint="Number them, such as face_0001.png")
    return int(found[1])


def _rate(archive: Archive) -> Fraction:
    rates = [i for i in archive.members if PurePosixPath(i.filename).name == "rate.txt"]
    return parse_rate(archive.read(rates[0], 100).decode("utf-8", "replace").strip()) if rates else RATE


def picture_size(data: bytes, name: str) -> tuple[int, int]:
    """(width, height) from the header of a PNG or JPEG, before anything is decoded; raises InputError."""
    size = None
    if data[:8] == b"\x89PNG\r\n\x1a\n" and len(data) > 24:
        size = int.from_bytes(data[16:20]), int.from_bytes(data[20:24])
    elif data[:2] == b"\xff\xd8":
        size = _jpeg_size(data)
    if size is None:
        raise InputError(f"{name[:80]} is no PNG or JPEG", hint="Export the pictures again")
    if not all(16 <= s <= MAX_SIDE for s in size):
        raise LimitError(
            f"{name[:80]} says {size[0]} x {size[1]} pixels", hint=f"16 to {MAX_SIDE} pixels each way are read"
        )
    return size


def _jpeg_size(data: bytes) -> tuple[int, int] | None:
    at = 2
    while at + 9 < len(data) and data[at] == 0xFF:
        marker = data[at + 1]
        if 0xC0 <= marker <= 0xCF and marker not in (0xC4, 0xC8, 0xCC):
            return int.from_bytes(data[at + 7 : at + 9]), int.from_bytes(data[at + 5 : at + 7])
        at += 2 + int.from_bytes(data[at + 2 : at + 4])
    return None


def _pictures(stored: Stored, wanted: list[zipfile.ZipInfo], size: tuple[int, int]) -> Iterator[NDArray[np.uint8]]:
    with open_archive(stored, MAX_ALL) as archive:
        for info in wanted:
            name, raw = info.filename, archive.read(info, MAX_PICTURE)
            if picture_size(raw, name) != size:
                raise InputError(f"{name[:80]} is not {size[0]} x {size[1]} pixels as the first picture is")
            picture = cv2.imdecode(np.frombuffer(raw, np.uint8), cv2.IMREAD_COLOR | cv2.IMREAD_IGNORE_ORIENTATION)
            if picture is None:
                raise InputError(f"{name[:80]} cannot be decoded", hint="Export the picture again")
            yield np.asarray(cv2.cvtColor(picture, cv2.COLOR_BGR2RGB), np.uint8)


FORMAT = Format("numbered pictures", "numbered pictures (.zip)", "footage", (".zip",), detect, read, None,
                footage_findings, 2_000_000_000, read_in_place)  # fmt: skip
