"""A movie of the characters as H.264 in an MP4, with sound and, burnt in, what it shows; its timecode is the container's own."""

from collections.abc import Iterator, Sequence
from itertools import chain

import cv2
import numpy as np
from numpy.typing import NDArray

from dynaface.core.clock.timecode import Timecode, from_seconds
from dynaface.core.curves.channels import Channels
from dynaface.core.handover.delivery import Delivery, Film
from dynaface.core.parameters import Parameter
from dynaface.formats.entries import video
from dynaface.formats.filmed import FRAMES, filmed
from dynaface.formats.handover import Check, Files, HandoverForm, Settings, Tell, model_lacks
from dynaface.formats.heard import heard

Pixels = NDArray[np.uint8]
SIZES = {"640 x 360": (640, 360), "1280 x 720": (1280, 720), "1920 x 1080": (1920, 1080)}
BURNT, PLAIN = "name, timecode and frame", "nothing"
FOOTAGE, ALONE = "the footage", "nothing"
STRIP = 0.055  # of the height, for what is burnt in
ALIKE = 12.0  # of 255 by which a coded picture may differ from the drawn one, in the mean


def name_of(delivery: Delivery) -> str:
    """Of the file."""
    return f"{delivery.name}.mp4"


def write(delivery: Delivery, settings: Settings, tell: Tell) -> dict[str, bytes]:
    """One file."""
    channels = delivery.first.performance.channels
    pictures = _told(seen(delivery, settings, range(channels.frames)), channels.frames, tell)
    begins = counted(channels)
    sound = heard(delivery) if delivery.sounding else None
    return {name_of(delivery): video.encode(pictures, channels.rate, timecode=str(begins or ""), sound=sound)}


def _told(pictures: Iterator[Pixels], count: int, tell: Tell) -> Iterator[Pixels]:
    for number, picture in enumerate(pictures):
        if number % 10 == 0:
            tell(number / count, f"drawing picture {number} of {count}")
        yield picture


def counted(channels: Channels) -> Timecode | None:
    """The count of the first frame at the movie's own rate, as its container wants it."""
    code = channels.timecode
    return code and from_seconds(code.seconds, channels.rate, code.drop and channels.rate.denominator == 1001)


def seen(delivery: Delivery, settings: Settings, frames: Sequence[int]) -> Iterator[Pixels]:
    """The pictures of some frames, with all that goes along."""
    size = SIZES[settings["size"]]
    drawn = filmed(delivery.figures, FRAMES[settings["framing"]], size, frames)
    beside = (
        _beside(delivery.film, delivery.first.performance.channels, frames, size[1])
        if delivery.film and settings["beside"] == FOOTAGE
        else None
    )
    for number, picture in zip(frames, drawn, strict=True):
        if beside is not None:
            picture = np.concatenate([next(beside), picture], axis=1)
        yield _burnt(picture, delivery, number) if settings["burnt"] == BURNT else picture


def _beside(film: Film, channels: Channels, frames: Sequence[int], height: int) -> Iterator[Pixels]:
    """The picture of the footage that is nearest to each frame, as high as the others; black where there is none."""
    footage = film.footage
    width = round(footage.width * height / footage.height) // 2 * 2
    black = np.zeros((height, width, 3), np.uint8)
    moments = film.offset + np.array(frames) / float(channels.rate)
    times = footage.times - footage.times[0]
    wanted = np.clip(np.searchsorted(times, moments + 0.5 / float(footage.rate), side="right") - 1, 0, len(times) - 1)
    outside = (moments < -0.5 / float(footage.rate)) | (moments >= footage.seconds)
    pictures, at, shown = footage.pictures(int(wanted[0])), int(wanted[0]) - 1, black
    for number, out in zip(wanted.tolist(), outside.tolist(), strict=True):
        while at < number:
            found = next(pictures, None)
            at += 1
            if found is not None and at == number:
                shown = np.asarray(cv2.resize(found, (width, height), interpolation=cv2.INTER_AREA), np.uint8)
        yield black if out else shown


def _burnt(picture: Pixels, delivery: Delivery, number: int) -> Pixels:
    """With a strip below that says what is shown."""
    channels = delivery.first.performance.channels
    begins = counted(channels)
    label = str(Timecode(begins.frames + number, channels.rate, 0.0, begins.drop)) if begins else ""
    height, width = picture.shape[:2]
    out = picture.copy()
    strip = round(height * STRIP)
    out[height - strip :] = out[height - strip :] // 4
    scale, pad = strip / 38, strip // 3
    for text, place in ((delivery.label or delivery.name, 0.0), (label, 0.5), (f"{number}", 1.0)):
        (wide, high), _ = cv2.getTextSize(text, cv2.FONT_HERSHEY_SIMPLEX, scale, 1)
        x = round(pad + (width - 2 * pad - wide) * place)
        cv2.putText(
            out,
            text,
            (x, height - (strip - high) // 2),
            cv2.FONT_HERSHEY_SIMPLEX,
            scale,
            (235, 230, 214),
            1,
            cv2.LINE_AA,
        )
    return out


def check(files: Files, delivery: Delivery, settings: Settings, node: str) -> list[Check]:
    """Decoded again: as many pictures, as they were drawn, at the same count, and a sound as long as they are."""
    channels = delivery.first.performance.channels
    read = video.read(files[name_of(delivery)])
    out = [
        Check(
            "movie reads back",
            read.frames == channels.frames,
            f"{read.frames} of {channels.frames} frames at {read.rate} fps",
        )
    ]
    last = min(channels.frames, read.frames) - 1
    worst = 0.0
    looked = sorted({0, last // 2, last})
    for number, drawn in zip(looked, seen(delivery, settings, looked), strict=True):
        decoded = next(chain(read.pictures(number), [np.zeros_like(drawn)]))
        worst = max(worst, float(np.abs(decoded.astype(float) - drawn[: decoded.shape[0], : decoded.shape[1]]).mean()))
    out.append(Check("movie shows what was drawn", worst <= ALIKE, f"mean difference at most {worst:.1f} of 255"))
    if begins := counted(channels):
        found = read.timecode
        out.append(Check("movie begins at its timecode", str(found) == str(begins), str(found)))
    if read.sound:
        sound = video.sound_of(files[name_of(delivery)])
        apart = abs(sound.seconds - read.seconds)
        out.append(Check("sound as long as the movie", apart <= 0.05, f"{sound.seconds:.3f} of {read.seconds:.3f} s"))
    if settings["beside"] == FOOTAGE and delivery.film is None:
        out.append(Check("footage beside", None, "there is none"))
    return out


FORM = HandoverForm(
    "movie", "Movie (.mp4)", ".mp4", "Drawn by the worker with sound, to be looked at by others.", model_lacks, write, check,
    (
        Parameter("size", "Size", "choice", "1280 x 720", options=tuple(SIZES), help="Pixels, without the footage beside"),
        Parameter("framing", "Shows", "choice", "the faces", options=tuple(FRAMES)),
        Parameter("burnt", "Burnt in", "choice", BURNT, options=(BURNT, PLAIN)),
        Parameter("beside", "Beside it", "choice", ALONE, options=(ALONE, FOOTAGE)),
    ),
    rank=7,
    wants=("sound", "film"),
)  # fmt: skip
