"""Bakes a performance into files and checks them by reading them back. Needs no database: the command line uses it."""

import json
import subprocess
import tempfile
from collections.abc import Mapping
from dataclasses import dataclass, field, replace
from pathlib import Path
from typing import Any

import numpy as np
from numpy.typing import NDArray

from dynaface.core import checks
from dynaface.core.body.skeleton import Skeleton
from dynaface.core.clock.rates import format_rate, parse_rate
from dynaface.core.curves.gaps import gap_frames
from dynaface.core.errors import InputError
from dynaface.core.perform.perform import Performance
from dynaface.core.shapes.standard import HEAD_ANGLES, HEAD_TRAVEL
from dynaface.formats.entries import bvh, curve_table
from dynaface.formats.gltf.bake import bake_glb, sample_glb
from dynaface.pipelines.progress import Progress

SAMPLES = 20
VALIDATOR = Path(__file__).parents[1] / "validator" / "validate.mjs"  # placed there by the front end's build
TOLERANCE = 1e-4
Ints = NDArray[np.int_]


@dataclass(frozen=True)
class HandoverSettings:
    """glb, table, bvh: what to make; head: with head motion or without; rate: of the shot, "" as it is."""

    glb: bool = True
    table: bool = True
    bvh: bool = False
    head: bool = True
    rate: str = ""


def parse_handover(data: Mapping[str, Any]) -> HandoverSettings:
    """Settings from plain data; raises InputError."""
    for key, value in data.items():
        checks.one_of("handover setting", key, HandoverSettings.__dataclass_fields__.keys())
        if key != "rate" and not isinstance(value, bool):
            raise InputError(f"{key} is {value!r}; it must be true or false")
    settings = HandoverSettings(**data)
    if settings.rate:
        parse_rate(settings.rate)
    if not (settings.glb or settings.table or settings.bvh):
        raise InputError("nothing is chosen to hand over", hint="Choose at least one file")
    return settings


@dataclass(frozen=True)
class Baked:
    """Files by name, and the check report."""

    files: Mapping[str, bytes]
    report: Mapping[str, Any] = field(default_factory=dict)


def bake_handover(
    performance: Performance,
    character: bytes | None,
    skeleton: Skeleton | None,
    settings: HandoverSettings,
    name: str,
    sound: Mapping[str, Any] | None = None,
    node: str = "",
    progress: Progress = lambda part, message: None,
) -> Baked:
    """Makes the files and their report.

    character: the glTF it stands on, needed for glb; skeleton: needed for bvh; sound: {"file", "offsetSeconds"} noted
    in the glb; progress: called with 0..1 and words, and may raise CancelledError.
    """
    channels = performance.channels
    if not settings.head:
        kept = [i for i, n in enumerate(channels.names) if n not in HEAD_ANGLES + HEAD_TRAVEL]
        channels = type(channels)(
            tuple(channels.names[i] for i in kept), channels.values[:, kept], channels.rate, channels.start,
            channels.timecode,
        )  # fmt: skip
    code = channels.timecode
    extras = {
        "rate": format_rate(channels.rate),
        "timecode": str(code) if code else "",
        "timecodeRate": format_rate(code.rate) if code else "",
        "sound": dict(sound) if sound else None,
    }
    files: dict[str, bytes] = {}
    report: dict[str, Any] = {
        "frames": channels.frames,
        "seconds": channels.seconds,
        "rate": extras["rate"],
        "checks": [],
    }
    if settings.table:
        progress(0.1, "writing the curve table")
        files[f"{name}.csv"] = curve_table.write_table(channels)
        report["checks"].append(_check_table(files[f"{name}.csv"], channels.frames))
    if settings.bvh:
        progress(0.3, "writing the body")
        if skeleton is None:
            raise InputError("the character has no skeleton, so there is no body to hand over")
        files[f"{name}.bvh"] = bvh.write(performance.motion(skeleton))
        report["checks"].append(_check_bvh(files[f"{name}.bvh"], channels.frames))
    if settings.glb:
        if character is None:
            raise InputError("there is no character to hand over on")
        progress(0.5, "baking onto the character")
        baked = bake_glb(character, performance, extras, name)
        files[f"{name}.glb"] = baked
        progress(0.75, "checking")
        report["checks"] += [_check_values(baked, performance), *_validated(baked, node)]
    lost = gap_frames(channels.values)
    said = f"{lost} frames have gaps: blank in the table, bridged on the character" if lost else "none"
    report["checks"].append(_check("gaps in the curves", None if lost else True, said))
    progress(0.95, "storing")
    report["sound"] = extras["sound"]
    report["ok"] = all(c["ok"] is not False for c in report["checks"])
    return Baked(files, report)


def with_check(baked: Baked, check: Mapping[str, Any]) -> Baked:
    """The same with one more check in its report."""
    checked = [*baked.report["checks"], check]
    return replace(baked, report={**baked.report, "checks": checked, "ok": all(c["ok"] is not False for c in checked)})


def sampled_frames(count: int) -> Ints:
    """The frames, of so many, at which a baked file is compared with what the viewer is sent."""
    return np.unique(np.linspace(0, count - 1, SAMPLES).round().astype(int))


def compared(what: str, worst: float) -> dict[str, Any]:
    """The check of values that are the viewer's but for a worst difference."""
    return _check(what, worst <= TOLERANCE, f"worst difference {worst:.1e}")


def _check(what: str, ok: bool | None, found: str) -> dict[str, Any]:
    return {"what": what, "ok": ok, "found": found}


def _check_table(raw: bytes, frames: int) -> dict[str, Any]:
    recording, _ = curve_table.read_table(raw)
    return _check(
        "curve table reads back", len(recording.times) == frames, f"{len(recording.times)} of {frames} frames"
    )


def _check_bvh(raw: bytes, frames: int) -> dict[str, Any]:
    read = bvh.read(raw)
    return _check("body reads back", read.frames == frames, f"{read.frames} of {frames} frames")


def _check_values(baked: bytes, performance: Performance) -> dict[str, Any]:
    """Compares the file's own values with what the viewer is sent, at sampled frames."""
    count = performance.channels.frames
    frames = sampled_frames(count)
    read = sample_glb(baked, frames)
    worst = 0.0
    for i, joint in enumerate(performance.joints):
        worst = max(worst, float(np.abs(read[(joint, "rotation")] - performance.local[frames, i]).max()))
    shown = dict(zip(performance.cast.targets, performance.cast.weights[frames].T, strict=True))
    still = set(performance.cast.still)
    for (node, path), values in read.items():
        if path.startswith("weights of "):
            target = path.removeprefix("weights of ")
            expected = 0.0 if (node, target) in still else shown.get(target, 0.0)
            worst = max(worst, float(np.abs(values - expected).max()))
    for joint, shift in performance.shifts.items():
        if (joint, "translation") in read and joint != performance.root_joint:
            moved = read[(joint, "translation")] - read[(joint, "translation")][0]
            worst = max(worst, float(np.abs(moved - (shift[frames] - shift[frames][0])).max()))
    return compared(f"same as the viewer at {len(frames)} frames", worst)


def _validated(baked: bytes, node: str) -> list[dict[str, Any]]:
    if not node:
        return [_check("glTF validator", None, "not run: no Node.js is set up")]
    with tempfile.NamedTemporaryFile(suffix=".glb") as file:
        file.write(baked)
        file.flush()
        made = subprocess.run([node, str(VALIDATOR), file.name], capture_output=True, timeout=120, check=False)
    if made.returncode:
        return [_check("glTF validator", None, "did not run: " + made.stderr.decode(errors="replace")[-200:])]
    issues = json.loads(made.stdout)
    found = f"{issues['numErrors']} errors, {issues['numWarnings']} warnings"
    first = next((m["message"] for m in issues["messages"] if m["severity"] < 2), "")
    return [_check("glTF validator", issues["numErrors"] == 0, f"{found}{': ' + first if first else ''}")]


def write_files(baked: Baked, folder: Path) -> None:
    """Writes the files into a folder."""
    for name, raw in baked.files.items():
        (folder / name).write_bytes(raw)
