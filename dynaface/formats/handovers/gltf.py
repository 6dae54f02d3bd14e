"""A character with its motion as a glTF binary; its timecode stands under `extras.dynaface` of the animation, glTF having no place for it."""

from typing import Any

import numpy as np

from dynaface.core.clock.rates import format_rate
from dynaface.core.clock.timecode import noted
from dynaface.core.handover.delivery import Delivery, Figure
from dynaface.core.parameters import Parameter
from dynaface.formats.gltf.bake import bake_glb, sample_glb
from dynaface.formats.gltf.brought import read_brought
from dynaface.formats.gltf.document import open_glb
from dynaface.formats.gltf.merged import Standing, merged
from dynaface.formats.gltf.validate import validated
from dynaface.formats.handover import (
    APART,
    ONE,
    Check,
    Files,
    HandoverForm,
    Settings,
    Tell,
    allowed,
    compared,
    model_lacks,
    of_file,
    sampled_frames,
)


def write(delivery: Delivery, settings: Settings, tell: Tell) -> dict[str, bytes]:
    """A file a character, or one of all."""
    if settings["characters"] == APART:
        return {f"{f.name}.glb": _baked(delivery, f) for f in delivery.figures}
    standing = [Standing(_baked(delivery, f), f.name, f.at, f.turn) for f in delivery.figures]
    return {f"{delivery.name}.glb": merged(standing, delivery.name, _extras(delivery, delivery.first))}


def _baked(delivery: Delivery, figure: Figure) -> bytes:
    assert figure.model is not None
    return bake_glb(figure.model, figure.performance, _extras(delivery, figure), figure.name, delivery.options)


def _extras(delivery: Delivery, figure: Figure) -> dict[str, Any]:
    channels = figure.performance.channels
    return {"rate": format_rate(channels.rate), **noted(channels.timecode), "sound": delivery.voice_noted}


def check(files: Files, delivery: Delivery, settings: Settings, node: str) -> list[Check]:
    """The file's own values against what the viewer is sent, and the validator."""
    out = []
    several = len(delivery.figures) > 1
    if settings["characters"] == APART:
        for figure in delivery.figures:
            name = f"{figure.name}.glb"
            found = [same_values(files[name], delivery, figure), validated(files[name], node)]
            out += of_file(name, found, several)
        return out
    data, first = files[f"{delivery.name}.glb"], 0
    for figure in delivery.figures:
        assert figure.model is not None
        stop = first + len(open_glb(figure.model).nodes)
        out += of_file(figure.name, [same_values(data, delivery, figure, range(first, stop))], several)
        first = stop + 1  # the node that puts it in its place
    return [*out, validated(data, node)]


def same_values(data: bytes, delivery: Delivery, figure: Figure, nodes: range | None = None) -> Check:
    """Compares the file's values with the performance at sampled frames. nodes: those of the figure, None for all."""
    made, named = figure.performance, delivery.options.named
    frames = sampled_frames(made.channels.frames)
    read = sample_glb(data, frames, made.channels.rate, nodes)
    worst = 0.0
    for i, joint in enumerate(made.joints):
        worst = max(worst, float(np.abs(read[(named(joint), "rotation")] - made.local[frames, i]).max()))
    shown = {named(t): w for t, w in zip(made.cast.targets, made.cast.weights[frames].T, strict=True)}
    still = {(node, named(target)) for node, target in made.cast.still}
    for (node, path), values in read.items():
        if path.startswith("weights of "):
            target = path.removeprefix("weights of ")
            expected = 0.0 if (node, target) in still else shown.get(target, 0.0)
            worst = max(worst, float(np.abs(values - expected).max()))
    for joint, shift in made.moved.items():
        if (named(joint), "translation") in read:
            since = read[(named(joint), "translation")] - read[(named(joint), "translation")][0]
            worst = max(worst, float(np.abs(since - (shift[frames] - shift[frames][0])).max()))
    return compared(f"same as the viewer at {len(frames)} frames", worst, allowed(delivery.options))


FORM = HandoverForm(
    "gltf", "Character with its motion (.glb)", ".glb", "One animation of shapes and joints on the character, for engines and 3D programs.",
    model_lacks, write, check,
    (Parameter("characters", "Characters", "choice", APART, options=(APART, ONE), help="Where several are handed over"),),
    rank=1,
    bring=read_brought,
)  # fmt: skip
