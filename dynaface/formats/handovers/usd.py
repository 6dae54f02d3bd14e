"""A USD stage: characters as UsdSkel with shapes and joints, and their sound; its timecode stands in the custom data of the layer."""

import tempfile
from pathlib import Path

import numpy as np

from dynaface.core.handover.delivery import Delivery, Figure
from dynaface.core.parameters import Parameter
from dynaface.formats.entries import wav
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
    sampled_frames,
    within,
)
from dynaface.formats.heard import heard, heard_name
from dynaface.formats.usd.brought import read_brought
from dynaface.formats.usd.stage import METRES, StageWay, faults_of, figure_paths, open_stage, sample_stage, write_stage

ENDINGS = {"binary": ".usdc", "text": ".usda"}


def stages_of(delivery: Delivery, settings: Settings) -> dict[str, tuple[Figure, ...]]:
    """file -> the characters on its stage."""
    ending = ENDINGS[settings["form"]]
    if settings["characters"] == ONE:
        return {f"{delivery.name}{ending}": delivery.figures}
    return {f"{f.name}{ending}": (f.alone,) for f in delivery.figures}


def write(delivery: Delivery, settings: Settings, tell: Tell) -> dict[str, bytes]:
    """Stages, the pictures of their materials and the sound."""
    sound = heard_name(delivery) if delivery.sounding else ""
    way = StageWay(settings["units"], settings["up"], ENDINGS[settings["form"]], sound)
    out = {sound: wav.write(heard(delivery))} if sound else {}
    stages = stages_of(delivery, settings)
    for number, (name, figures) in enumerate(stages.items()):
        stage, pictures = write_stage(figures, delivery.options, way, within(tell, number, len(stages)))
        out |= {name: stage, **pictures}
    return out


def check(files: Files, delivery: Delivery, settings: Settings, node: str) -> list[Check]:
    """Opened again: shapes and joints as the viewer has them, and what USD's validators say."""
    out = []
    with tempfile.TemporaryDirectory() as folder:
        for name, data in files.items():
            (Path(folder) / name).write_bytes(data)
        for name, figures in stages_of(delivery, settings).items():
            stage = open_stage(Path(folder) / name)
            for figure, path in zip(figures, figure_paths(figures), strict=True):
                frames = sampled_frames(figure.performance.channels.frames)
                moved = sample_stage(stage, path, frames, figure.performance.channels.rate)
                worst = _apart(moved.weights, moved.turns, figure, delivery, frames)
                what = f"{name} plays what the viewer shows at {len(frames)} frames"
                out.append(compared(what, worst, allowed(delivery.options)))
            faults = faults_of(stage)
            said = f"{len(faults)} errors{': ' + faults[0][:160] if faults else ''}"
            out.append(Check(f"USD validators on {name}", not faults, said))
            del stage
    return out


def _apart(weights: dict[str, np.ndarray], turns: dict[str, np.ndarray], figure: Figure, delivery: Delivery, frames: np.ndarray) -> float:  # fmt: skip
    made, named = figure.performance, delivery.options.named
    worst = 0.0
    for number, target in enumerate(made.cast.targets):
        worst = max(worst, float(np.abs(weights[named(target)] - made.cast.weights[frames, number]).max()))
    for number, joint in enumerate(made.joints):
        meant, found = made.local[frames, number], turns[named(joint)]
        found = found * np.where((found * meant).sum(axis=-1, keepdims=True) < 0, -1, 1)
        worst = max(worst, float(np.abs(found - meant).max()))
    return worst


FORM = HandoverForm(
    "usd", "USD stage (.usdc, .usda)", ".usdc", "Characters with shapes, joints, materials and sound on a stage.", model_lacks, write, check,
    (
        Parameter("form", "Written as", "choice", "binary", options=tuple(ENDINGS)),
        Parameter("characters", "Characters", "choice", APART, options=(APART, ONE)),
        Parameter("units", "Lengths in", "choice", "metres", options=tuple(METRES)),
        Parameter("up", "Upwards", "choice", "y", options=("y", "z"), help="The axis that points up on the stage"),
    ),
    {".usdc": {"form": "binary"}, ".usda": {"form": "text"}},
    rank=2,
    wants=("sound",),
    bring=read_brought,
)  # fmt: skip
