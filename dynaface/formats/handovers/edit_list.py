"""What lies where as an OpenTimelineIO timeline (.otio): clips and sounds on tracks, marks, timecode as the global start time."""

from fractions import Fraction
from typing import Any

import opentimelineio as otio
from opentimelineio.opentime import RationalTime, TimeRange

from dynaface.core.clock.rates import format_rate
from dynaface.core.clock.timecode import Timecode
from dynaface.core.errors import InputError
from dynaface.core.handover.delivery import Delivery
from dynaface.core.handover.edit_list import EditList, Piece, Track
from dynaface.formats.handover import Check, Files, HandoverForm, Settings, Tell

KINDS = {"picture": "Video", "sound": "Audio"}


def lacks(delivery: Delivery) -> str:
    """It needs to know what lies where."""
    return "" if delivery.edit else "it is not known from which recordings this was cut"


def name_of(delivery: Delivery) -> str:
    """Of the file."""
    return f"{delivery.name}.otio"


def write(delivery: Delivery, settings: Settings, tell: Tell) -> dict[str, bytes]:
    """One file."""
    assert delivery.edit is not None
    return {name_of(delivery): timeline_of(delivery.edit).to_json_string().encode()}


def timeline_of(edit: EditList) -> Any:
    """The list as a timeline; times are frames of its rate, with parts of one where something lies between two."""
    rate = float(edit.rate)
    begins = edit.timecode
    timeline = otio.schema.Timeline(edit.name, global_start_time=_counted(begins, edit.rate) if begins else None)
    timeline.metadata["dynaface"] = {"rate": format_rate(edit.rate), "timecode": str(begins) if begins else "",
                                     "timecodeRate": format_rate(begins.rate) if begins else ""}  # fmt: skip
    for track in edit.tracks:
        timeline.tracks.append(_track(track, rate, edit.rate))
    for mark in edit.marks:
        span = TimeRange(_frames(mark.at, rate), _frames(mark.seconds, rate))
        timeline.tracks.markers.append(otio.schema.Marker(mark.name, span))
    return timeline


def _frames(seconds: Fraction, rate: float) -> RationalTime:
    return RationalTime(float(seconds) * rate, rate)


def _counted(code: Timecode, rate: Fraction) -> RationalTime:
    """A count as frames of the list's rate since midnight, as labels count."""
    if code.rate == rate:
        return RationalTime(code.frames + code.fraction, float(rate))
    return RationalTime(code.seconds * float(rate), float(rate))


def _track(track: Track, rate: float, exact: Fraction) -> Any:
    out = otio.schema.Track(track.name, kind=KINDS[track.kind])
    at = Fraction(0)
    for piece in track.pieces:
        if piece.start > at:
            out.append(otio.schema.Gap(source_range=TimeRange(RationalTime(0, rate), _frames(piece.start - at, rate))))
        out.append(_clip(piece, rate, exact))
        at = piece.stop
    return out


def _clip(piece: Piece, rate: float, exact: Fraction) -> Any:
    media = piece.media
    begins = _counted(media.timecode, exact) if media.timecode else RationalTime(0, rate)
    known = TimeRange(begins, _frames(media.seconds, rate))
    shown = TimeRange(begins + _frames(piece.first, rate), _frames(piece.stop - piece.start, rate))
    reference = otio.schema.ExternalReference(target_url=media.file, available_range=known)
    clip = otio.schema.Clip(piece.name, media_reference=reference, source_range=shown)
    if piece.speed != 1:
        clip.effects.append(otio.schema.LinearTimeWarp(time_scalar=float(piece.speed)))
    return clip


def read_timeline(data: bytes) -> Any:
    """The timeline of a file; raises InputError."""
    try:
        found = otio.adapters.read_from_string(data.decode(), "otio_json")
    except (UnicodeDecodeError, otio.exceptions.OTIOError, ValueError) as error:
        raise InputError(f"this is no edit list: {str(error)[:120]}") from None
    if not isinstance(found, otio.schema.Timeline):
        raise InputError("this file of OpenTimelineIO holds no timeline")
    return found


def check(files: Files, delivery: Delivery, settings: Settings, node: str) -> list[Check]:
    """Read back, each clip lies where it lies in the shot, and shows the same of its recording."""
    edit = delivery.edit
    assert edit is not None
    read = read_timeline(files[name_of(delivery)])
    clips = [(t, c) for t in read.tracks for c in t if isinstance(c, otio.schema.Clip)]
    pieces = [p for t in edit.tracks for p in t.pieces]
    worst = float("inf")
    if len(clips) == len(pieces):
        worst = max(
            (_apart(track, clip, piece) for (track, clip), piece in zip(clips, pieces, strict=True)), default=0.0
        )
    said = f"{len(clips)} of {len(pieces)} clips on {len(read.tracks)} tracks, worst difference {worst:.1e} s"
    out = [Check("edit list reads back", worst <= 1e-6, said)]
    if edit.timecode:
        begins = read.global_start_time
        meant = _counted(edit.timecode, edit.rate)
        out.append(Check("edit list begins at its timecode", begins == meant, str(edit.timecode)))
    return out


def _apart(track: Any, clip: Any, piece: Piece) -> float:
    """Seconds by which a clip lies or shows otherwise than it should."""
    span = track.range_of_child(clip)
    first = (clip.source_range.start_time - clip.available_range().start_time).to_seconds()
    times = (span.start_time.to_seconds(), span.end_time_exclusive().to_seconds(), first)
    return max(abs(a - float(b)) for a, b in zip(times, (piece.start, piece.stop, piece.first), strict=True))


FORM = HandoverForm("edit list", "Edit list (.otio)", ".otio", "Which stretches of which recordings lie where, for programs that cut.", lacks, write, check,
    rank=6,
    wants=("edit",),
)  # fmt: skip
