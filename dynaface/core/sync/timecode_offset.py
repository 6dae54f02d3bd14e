"""Where two recordings of one moment lie against each other by their timecodes."""

from dynaface.core.clock.timecode import Timecode

HALF_DAY, DAY = 43_200, 86_400  # seconds


def timecode_offset(face: Timecode | None, body: Timecode | None) -> float | None:
    """Seconds into the body take at which the face take begins; None where one of them has no timecode.

    Counts start anew at midnight: of all days on which both could have been recorded the nearest ones are taken.
    """
    if face is None or body is None:
        return None
    offset = face.seconds - body.seconds
    return (offset + HALF_DAY) % DAY - HALF_DAY
