"""BVH body motion. Lengths are taken as centimetres unless the figure would be too small or too large for that.

BVH has no place for timecode; ours stands in a comment-like trailing line "# timecode 01:02:03:04 rate 120", which
readers of BVH pass over after the last frame; frames from midnight as one number are read as well. A file without it has no timecode.
"""

import re
from dataclasses import dataclass, field
from fractions import Fraction
from typing import Any

import numpy as np

from dynaface.core.body.rotations import IDENTITY, about, continuous, inverse, multiply, rotate
from dynaface.core.body.skeleton import Motion, Skeleton
from dynaface.core.clock.rates import STANDARD_RATES, format_rate, parse_rate
from dynaface.core.clock.timecode import Timecode, labelled, parse_count
from dynaface.core.errors import InputError, LimitError
from dynaface.formats.format import Format

MAX_JOINTS, MAX_FRAMES = 500, 1_000_000
_TIMECODE = re.compile(r"^#\s*timecode\s+(\S+)(?:\s+rate\s+(\S+))?\s*$", re.MULTILINE)
_CHANNELS = ("Xposition", "Yposition", "Zposition", "Xrotation", "Yrotation", "Zrotation")


def detect(head: bytes) -> bool:
    """The word HIERARCHY first."""
    return head.lstrip(b"\xef\xbb\xbf \t\r\n")[:9] == b"HIERARCHY"


class _Tokens:
    """Words of the hierarchy with the line that each stands in."""

    def __init__(self, lines: list[str]) -> None:
        self.words = [(w, n) for n, line in enumerate(lines, 1) for w in line.split()]
        self.at = 0

    def next(self, expected: str = "") -> str:
        if self.at >= len(self.words):
            line = self.words[-1][1] if self.words else 1
            raise InputError(f"the file ends where {expected or 'more'} should be", where=f"line {line}",
                             hint="It was cut off; export it again")  # fmt: skip
        word, line = self.words[self.at]
        self.at += 1
        if expected and word.lower() != expected.lower():
            raise InputError(f"{word!r} stands where {expected!r} should be", where=f"line {line}")
        return word

    def number(self) -> float:
        word = self.next()
        try:
            value = float(word)
        except ValueError:
            raise InputError(f"{word!r} is no number", where=f"line {self.line}") from None
        if not np.isfinite(value):
            raise InputError(f"{word!r} is not finite", where=f"line {self.line}")
        return value

    @property
    def left(self) -> bool:
        """Whether words are left."""
        return self.at < len(self.words)

    @property
    def line(self) -> int:
        return self.words[self.at - 1][1]


@dataclass
class _Root:
    """A skeleton as the hierarchy has it; layout: (joint, channel) of each column."""

    names: list[str] = field(default_factory=list)
    parents: list[int] = field(default_factory=list)
    offsets: list[list[float]] = field(default_factory=list)
    layout: list[tuple[int, str]] = field(default_factory=list)


def read(data: bytes) -> Motion:
    """The motion of the first skeleton; raises InputError with the line."""
    return read_all(data)[0]


def read_all(data: bytes) -> list[Motion]:
    """The motion of each skeleton, one a root; raises InputError with the line."""
    text = data.decode("utf-8-sig", errors="replace")
    stamp = _TIMECODE.search(text)
    lines = text.splitlines()
    motion_line = next((i for i, ln in enumerate(lines) if ln.strip().upper() == "MOTION"), None)
    tokens = _Tokens(lines if motion_line is None else lines[:motion_line])
    tokens.next("HIERARCHY")
    roots: list[_Root] = []
    while not roots or tokens.left:
        tokens.next("ROOT")
        root = _Root()
        _joint(tokens, -1, root.names, root.parents, root.offsets, root.layout)
        roots.append(root)
    if motion_line is None:
        raise InputError(
            "the file ends before MOTION", where=f"line {len(lines)}", hint="It was cut off; export it again"
        )
    table, rate = _frames(lines, motion_line, sum(len(r.layout) for r in roots))
    # A count that names no rate is one of the file's own frames.
    timecode = parse_count(stamp[1], parse_rate(stamp[2]) if stamp[2] else rate) if stamp else None
    out, column = [], 0
    for root in roots:
        scale = _scale(root.offsets, root.parents)
        rest = np.tile(IDENTITY, (len(root.names), 1))
        skeleton = Skeleton(tuple(root.names), tuple(root.parents), np.array(root.offsets) * scale, rest)
        own = table[:, column : column + len(root.layout)]
        column += len(root.layout)
        out.append(Motion(skeleton, *_motion(own, root.layout, len(rest), scale, skeleton.offsets[0]), rate, timecode))
    return out


def _joint(tokens: _Tokens, parent: int, names: list[str], parents: list[int], offsets: list[list[float]],
           layout: list[tuple[int, str]]) -> None:  # fmt: skip
    name = tokens.next()
    if name in names:
        raise InputError(f"joint {name!r} is there twice", where=f"line {tokens.line}", hint="Rename one of them")
    if len(names) >= MAX_JOINTS:
        raise LimitError("the skeleton is too large", where=f"line {tokens.line}", hint=f"At most {MAX_JOINTS} joints")
    joint = len(names)
    names.append(name)
    parents.append(parent)
    tokens.next("{")
    tokens.next("OFFSET")
    offsets.append([tokens.number() for _ in range(3)])
    tokens.next("CHANNELS")
    count = int(tokens.number())
    if not 0 <= count <= 6:
        raise InputError(f"joint {name!r} says {count} channels", where=f"line {tokens.line}")
    for _ in range(count):
        channel = tokens.next()
        if channel not in _CHANNELS:
            raise InputError(f"{channel!r} is no channel", where=f"line {tokens.line}")
        layout.append((joint, channel))
    while True:
        word = tokens.next()
        if word == "}":
            return
        if word == "JOINT":
            _joint(tokens, joint, names, parents, offsets, layout)
        elif word.lower() == "end":
            tokens.next("Site")
            tokens.next("{")
            tokens.next("OFFSET")
            for _ in range(3):
                tokens.number()
            tokens.next("}")
        else:
            raise InputError(f"{word!r} stands where JOINT, End Site or }} should be", where=f"line {tokens.line}")


def _frames(lines: list[str], at: int, width: int) -> tuple[np.ndarray, Fraction]:
    rows = [(n, ln) for n, ln in enumerate(lines[at + 1 :], at + 2) if ln.strip() and not ln.lstrip().startswith("#")]
    if len(rows) < 2 or not rows[0][1].strip().startswith("Frames:") or "Frame Time:" not in rows[1][1]:
        raise InputError("'Frames:' and 'Frame Time:' should stand after MOTION", where=f"line {at + 1}",
                         hint="The file may have been cut off; export it again")  # fmt: skip
    try:
        said, step = int(rows[0][1].split(":")[1]), float(rows[1][1].split(":")[1])
    except ValueError:
        raise InputError("the number of frames or the frame time is no number", where=f"line {rows[0][0]}") from None
    if not 1e-3 <= step <= 1.0:
        raise InputError(f"the frame time is {step:g} s", where=f"line {rows[1][0]}", hint="It must be in 0.001..1 s")
    body = rows[2:]
    if said > MAX_FRAMES:
        raise LimitError(
            f"the motion has {said} frames", where=f"line {rows[0][0]}", hint=f"At most {MAX_FRAMES} are read"
        )
    if len(body) != said or said < 1:
        last = body[-1][0] if body else rows[1][0]
        raise InputError(f"the file says {said} frames, but {len(body)} are there", where=f"line {last}",
                         hint="It was cut off; export it again")  # fmt: skip
    table = np.empty((said, width))
    for i, (number, line) in enumerate(body):
        try:
            row = np.array(line.split(), np.float64)
        except ValueError:
            raise InputError("a value is no number", where=f"line {number}") from None
        if len(row) != width:
            raise InputError(f"this frame has {len(row)} values where {width} are needed", where=f"line {number}",
                             hint="It was cut off; export it again")  # fmt: skip
        if not np.isfinite(row).all():
            raise InputError("a value is not finite", where=f"line {number}")
        table[i] = row
    exact = 1.0 / step
    rate = min(STANDARD_RATES, key=lambda r: (abs(float(r) - exact), r.denominator))
    if abs(float(rate) - exact) > 0.02:
        rate = Fraction(exact).limit_denominator(1001)
    return table, rate


def _scale(offsets: list[list[float]], parents: list[int]) -> float:
    """Metres a unit: a figure is about 1 to 2.5 m from toe to crown."""
    positions = np.zeros((len(offsets), 3))
    for i, parent in enumerate(parents):
        positions[i] = np.array(offsets[i]) * (parent >= 0) + (positions[parent] if parent >= 0 else 0)
    height = float(np.ptp(positions, axis=0).max())  # with arms out as wide as high, whichever axis is up
    for scale in (0.01, 1.0, 0.0254, 0.001):
        if 0.6 <= height * scale <= 3.0:
            return scale
    return 0.01


def _motion(table: np.ndarray, layout: list[tuple[int, str]], joints: int, scale: float, root_offset: np.ndarray
            ) -> tuple[np.ndarray, np.ndarray]:  # fmt: skip
    local = np.tile(IDENTITY, (len(table), joints, 1))
    root = np.zeros((len(table), 3))
    moved = np.zeros(3, bool)
    for column, (joint, channel) in enumerate(layout):
        axis = "XYZ".index(channel[0])
        if channel.endswith("rotation"):
            local[:, joint] = multiply(local[:, joint], about("xyz"[axis], table[:, column]))
        elif joint == 0:
            root[:, axis] = table[:, column] * scale
            moved[axis] = True
    # Root positions replace the root's offset.
    root[:, moved] -= root_offset[moved]
    return continuous(local), root


def write(motion: Motion, scale: float = 100.0, up: str = "y") -> bytes:
    """BVH with rotations in the order Z X Y; a rest rotation is folded into the offsets. scale: units of the file a metre; up: "y" or "z"."""
    skeleton = motion.skeleton
    rest, at = skeleton.global_rest()
    lines = ["HIERARCHY"]
    stand = about("x", np.float64(90.0)) if up == "z" else IDENTITY
    _write_joint(skeleton, rotate(stand, at) * scale, 0, 0, lines)
    rotations, positions = skeleton.pose(motion.local, motion.root)
    # Turns away from rest in world space, then made local: BVH knows no rest rotation.
    turns = multiply(rotations, rest * np.array([-1, -1, -1, 1.0]))
    local = turns.copy()
    for joint, parent in enumerate(skeleton.parents):
        if parent >= 0:
            local[:, joint] = multiply(turns[:, parent] * np.array([-1, -1, -1, 1.0]), turns[:, joint])
    order = _depth_first(skeleton)
    local = multiply(multiply(stand, local), inverse(stand))
    angles = np.stack(_zxy(local[:, order]), axis=-1).reshape(motion.frames, -1)
    table = np.concatenate([rotate(stand, positions[:, 0]) * scale, angles], axis=1)
    lines += ["MOTION", f"Frames: {motion.frames}", f"Frame Time: {1 / float(motion.rate):.9f}"]
    lines += [" ".join(f"{v:.5f}" for v in row) for row in table.tolist()]
    if motion.timecode:
        lines.append(f"# timecode {labelled(motion.timecode)} rate {format_rate(motion.timecode.rate)}")
    return ("\n".join(lines) + "\n").encode()


def _zxy(q: np.ndarray) -> tuple[np.ndarray, np.ndarray, np.ndarray]:
    """Degrees about Z, X, Y in this order of turning axes: q = Z * X * Y."""
    y_axis = rotate(q, np.broadcast_to([0.0, 1.0, 0.0], (*q.shape[:-1], 3)))
    z = np.degrees(np.arctan2(-y_axis[..., 0], y_axis[..., 1]))
    x = np.degrees(np.arcsin(np.clip(y_axis[..., 2], -1, 1)))
    rest = multiply(multiply(about("x", -x), about("z", -z)), q)
    return z, x, np.degrees(2 * np.arctan2(rest[..., 1], rest[..., 3]))


def _children(skeleton: Skeleton, joint: int) -> list[int]:
    return [i for i, p in enumerate(skeleton.parents) if p == joint]


def _depth_first(skeleton: Skeleton, joint: int = 0) -> list[int]:
    return [joint, *(j for c in _children(skeleton, joint) for j in _depth_first(skeleton, c))]


def _write_joint(skeleton: Skeleton, at: np.ndarray, joint: int, depth: int, lines: list[str]) -> None:
    pad = "  " * depth
    parent = skeleton.parents[joint]
    offset = at[joint] - (at[parent] if parent >= 0 else 0)
    name = skeleton.names[joint].replace(" ", "_")
    lines += [f"{pad}{'JOINT' if depth else 'ROOT'} {name}", f"{pad}{{"]
    lines.append(f"{pad}  OFFSET {offset[0]:.5f} {offset[1]:.5f} {offset[2]:.5f}")
    position = "" if depth else "Xposition Yposition Zposition "
    lines.append(f"{pad}  CHANNELS {3 if depth else 6} {position}Zrotation Xrotation Yrotation")
    children = _children(skeleton, joint)
    for child in children:
        _write_joint(skeleton, at, child, depth + 1, lines)
    if not children:
        lines += [f"{pad}  End Site", f"{pad}  {{", f"{pad}    OFFSET 0.0 1.0 0.0", f"{pad}  }}"]
    lines.append(f"{pad}}}")


def _check(motion: Motion) -> dict[str, Any]:
    code: Timecode | None = motion.timecode
    return {"frames": motion.frames, "rate": format_rate(motion.rate), "seconds": motion.seconds,
            "joints": len(motion.skeleton.names), "timecode": str(code) if code else "", "notes": []}  # fmt: skip


FORMAT = Format("bvh", "BVH body motion (.bvh)", "body", (".bvh",), detect, read, write, _check, 256_000_000)
