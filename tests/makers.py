"""Synthetic channels, tables, sounds, bodies and characters for tests."""

import io
import zipfile
from fractions import Fraction
from functools import lru_cache
from itertools import islice

import cv2
import numpy as np

from dynaface.assets import ASSETS
from dynaface.core.body.rotations import about
from dynaface.core.body.skeleton import Motion, Skeleton
from dynaface.core.cast.character import Character, MeshTargets
from dynaface.core.clock.timecode import parse_timecode
from dynaface.core.curves.channels import Channels, Recording
from dynaface.core.markers.take import MarkerTake
from dynaface.core.shapes.standard import HEAD_ANGLES, SHAPES
from dynaface.core.sound.sound import Sound
from dynaface.formats.entries import video

NAMES = ("jawOpen", "eyeBlinkLeft", "eyeBlinkRight", "mouthSmileLeft", *HEAD_ANGLES)


def recording(frames=120, rate=60, names=NAMES, seed=1, jitter=0.0):
    """A smooth recording with optional jitter of its time stamps (frames)."""
    rng = np.random.default_rng(seed)
    times = (np.arange(frames) + rng.uniform(-jitter, jitter, frames)) / rate
    times = np.sort(times)
    phase = rng.uniform(0, 6.28, len(names))
    values = 0.5 + 0.4 * np.sin(2 * np.pi * times[:, None] * np.linspace(0.5, 2, len(names)) + phase)
    return Recording(
        tuple(names), times, values.astype(np.float32), Fraction(rate), parse_timecode("01:00:00:00", Fraction(60))
    )


def channels(frames=120, rate=60, names=NAMES, seed=1):
    """Smooth channels."""
    made = recording(frames, rate, names, seed)
    return Channels(made.names, made.values, made.rate, 0.0, made.timecode)


def table(rows=60, rate=60, names=SHAPES, time="time", scale=1.0, delimiter=",", step=None):
    """A curve table as bytes with a time column in seconds."""
    rng = np.random.default_rng(3)
    values = rng.uniform(0, 1, (rows, len(names))) * scale
    times = np.arange(rows) / rate if step is None else np.cumsum(step)
    lines = [delimiter.join([time, *names])]
    lines += [delimiter.join([f"{t:.6f}", *(f"{v:.5f}" for v in row)]) for t, row in zip(times, values, strict=True)]
    return ("\n".join(lines) + "\n").encode()


def tone(seconds=1.0, rate=16000):
    """A sine."""
    times = np.arange(int(seconds * rate)) / rate
    return Sound((0.5 * np.sin(2 * np.pi * 220 * times)).astype(np.float32)[:, None], rate)


def skeleton():
    """Hips, chest, two neck joints, head with eyes, and arms in a T-pose; faces +z."""
    rows = [("hips", -1, (0, 1, 0)), ("chest", 0, (0, 0.4, 0)), ("neck1", 1, (0, 0.15, 0)), ("neck2", 2, (0, 0.05, 0)),
            ("head", 3, (0, 0.05, 0)), ("eyeLeft", 4, (0.03, 0.08, 0.08)), ("eyeRight", 4, (-0.03, 0.08, 0.08)),
            ("upperArmLeft", 1, (0.2, 0.1, 0)), ("lowerArmLeft", 7, (0.3, 0, 0)), ("handLeft", 8, (0.25, 0, 0))]  # fmt: skip
    names, parents, offsets = zip(*rows, strict=True)
    return Skeleton(names, parents, np.array(offsets, float), np.tile([0.0, 0, 0, 1], (len(rows), 1)))


def body(turn=0.0, timecode=None, frames=120):
    """A body that stands and holds its head turned."""
    bones = skeleton()
    local = np.tile([0.0, 0, 0, 1], (frames, len(bones.names), 1))
    local[:, bones.index("head")] = about("y", np.full(frames, turn))
    return Motion(bones, local, np.zeros((frames, 3)), Fraction(60), timecode)


def character():
    """A face with some shapes and eyes on joints."""
    meshes = (
        MeshTargets("face", ("jawOpen", "Eye_Blink_L", "eyeBlinkRight", "eyeLookOutLeft", "wobble"), ("head",)),
        MeshTargets("eyes", ("eyeLookOutLeft",), ("eyeLeft", "eyeRight")),
    )
    return Character("Test", meshes, skeleton())


@lru_cache(maxsize=1)
def film():
    """A short clip of a face as bytes: the demo's webcam clip, its first 40 pictures, smaller."""
    whole = video.read((ASSETS / "demo/mara_clip.mp4").read_bytes())
    small = (cv2.resize(p, (288, 288), interpolation=cv2.INTER_AREA) for p in islice(whole.pictures(), 40))
    return video.encode(small, Fraction(30))


def noise_film(frames=12, rate=30, size=(64, 48), seed=1):
    """A clip with nothing in it but grain."""
    rng = np.random.default_rng(seed)
    pictures = (rng.integers(0, 255, (size[1], size[0], 3), np.uint8) for _ in range(frames))
    return video.encode(pictures, Fraction(rate))


def zipped(numbers=range(1, 9), size=(64, 48), kind="png", rate="", stored=zipfile.ZIP_STORED, name="face_{:04d}"):
    """Numbered pictures in an archive; picture n has the grey n * 5 in its red channel."""
    out = io.BytesIO()
    with zipfile.ZipFile(out, "w", stored) as archive:
        for number in numbers:
            picture = np.full((size[1], size[0], 3), 90, np.uint8)
            picture[..., 2] = number * 5  # OpenCV writes blue, green, red
            archive.writestr(f"clip/{name.format(number)}.{kind}", cv2.imencode(f".{kind}", picture)[1].tobytes())
        if rate:
            archive.writestr("clip/rate.txt", rate)
    return out.getvalue()


def markers(frames=30, count=9, rate=120, seed=2):
    """Markers that wander, one of them lost for a while."""
    rng = np.random.default_rng(seed)
    points = rng.uniform(-0.1, 0.1, (1, count, 3)) + 0.002 * np.cumsum(rng.normal(0, 1, (frames, count, 3)), axis=0)
    points[5:9, 3] = np.nan
    labels = tuple(f"face:M{i}" for i in range(count))
    return MarkerTake(
        tuple(n.split(":")[1] for n in labels), points, Fraction(rate), parse_timecode("10:00:00:00", Fraction(rate))
    )
