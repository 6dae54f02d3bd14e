"""When a WAV begins: samples since midnight in its bext chunk (EBU Tech 3285), at the rate of frames that its iXML chunk says."""

import re
import struct
from collections.abc import Mapping
from fractions import Fraction

from dynaface.core.clock.rates import format_rate, parse_rate
from dynaface.core.clock.timecode import Timecode
from dynaface.core.errors import InputError
from dynaface.core.sync.moment import seconds_of

BEXT, IXML = b"bext", b"iXML"
AT, SIZE = 338, 602  # bytes of a bext chunk before its time reference, and of one without a history
PLAIN = Fraction(30)  # frames a second of a label where the file names no rate
MOST = 1 << 20  # bytes of iXML that are looked at
DAY = 86_487  # seconds that a day of labels lasts at most: at 23.976 and the like it is longer
_RATE = re.compile(rb"<TIMECODE_RATE>\s*([\d/.]{1,20})\s*</TIMECODE_RATE>")
_DROP = re.compile(rb"<TIMECODE_FLAG>\s*DF\s*</TIMECODE_FLAG>")


def begins(chunks: Mapping[bytes, bytes], rate: int) -> Timecode | None:
    """The count at the first sample; None where there is no time reference, or it is 0 as files that were never given one have it. rate:
    samples a second.
    """
    bext, ixml = chunks.get(BEXT, b""), chunks.get(IXML, b"")[:MOST]
    if len(bext) < AT + 8:
        return None
    samples: int = struct.unpack_from("<Q", bext, AT)[0]
    if not 0 < samples < DAY * rate:
        return None
    frames = _frames(ixml)
    exact = Fraction(samples, rate) * frames
    drop = bool(_DROP.search(ixml)) and frames.denominator == 1001
    return Timecode(int(exact), frames, float(exact - int(exact)), drop)


def time_chunks(code: Timecode, rate: int) -> bytes:
    """The two chunks of a WAV that begins at a count."""
    bext = bytearray(SIZE)
    bext[256:264] = b"Dynaface"
    struct.pack_into("<Q", bext, AT, round(seconds_of(code) * rate))
    struct.pack_into("<H", bext, AT + 8, 1)  # the version of the chunk
    flag, said = "DF" if code.drop else "NDF", format_rate(code.rate)
    said = said if "/" in said else f"{said}/1"
    ixml = (
        '<?xml version="1.0" encoding="UTF-8"?><BWFXML><IXML_VERSION>1.5</IXML_VERSION><SPEED>'
        f"<TIMECODE_RATE>{said}</TIMECODE_RATE><TIMECODE_FLAG>{flag}</TIMECODE_FLAG></SPEED></BWFXML>"
    ).encode()
    ixml += b" " * (len(ixml) & 1)
    return b"".join(name + struct.pack("<I", len(body)) + bytes(body) for name, body in ((BEXT, bext), (IXML, ixml)))


def _frames(ixml: bytes) -> Fraction:
    said = _RATE.search(ixml)
    if said is None:
        return PLAIN
    try:
        return parse_rate(said[1].decode())
    except InputError:
        return PLAIN
