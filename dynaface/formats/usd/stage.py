"""A stage of one or several characters in motion with their sound, written and read."""

import os
import tempfile
from collections.abc import Callable
from dataclasses import dataclass
from fractions import Fraction
from pathlib import Path
from typing import Any

import numpy as np
from pxr import Sdf, Usd, UsdGeom, UsdMedia, UsdSkel, UsdValidation

from dynaface.core.clock.rates import format_rate
from dynaface.core.clock.timecode import noted
from dynaface.core.errors import InputError
from dynaface.core.handover.delivery import Figure, Vector
from dynaface.core.handover.options import HandoverOptions
from dynaface.formats.handover import Tell, within
from dynaface.formats.usd.figure import add_figure
from dynaface.formats.usd.names import prim_names

WORLD = Sdf.Path("/World")
METRES = {"metres": 1.0, "centimetres": 0.01}
Array = np.ndarray


@dataclass(frozen=True)
class StageWay:
    """How a stage is written. units: a key of METRES; up: "y" or "z"; ending: ".usda" (text) or ".usdc"; sound: the file that is heard, "" for none;
    heard_from: the frame at which it begins.
    """

    units: str = "metres"
    up: str = "y"
    ending: str = ".usdc"
    sound: str = ""
    heard_from: float = 0.0


def write_stage(
    figures: tuple[Figure, ...], options: HandoverOptions, way: StageWay, tell: Tell
) -> tuple[bytes, dict[str, bytes]]:
    """(the stage, pictures that lie beside it). Frames are counted from 0; timecode stands in the layer's custom data, USD having no place for it."""
    channels = figures[0].performance.channels
    with tempfile.TemporaryDirectory() as folder:
        at = Path(folder) / f"stage{way.ending}"
        stage = Usd.Stage.CreateNew(os.fspath(at))
        UsdGeom.SetStageUpAxis(stage, UsdGeom.Tokens.z if way.up == "z" else UsdGeom.Tokens.y)
        UsdGeom.SetStageMetersPerUnit(stage, METRES[way.units])
        stage.SetTimeCodesPerSecond(float(channels.rate))
        stage.SetFramesPerSecond(float(channels.rate))
        stage.SetStartTimeCode(0)
        stage.SetEndTimeCode(channels.frames - 1)
        said = {"rate": format_rate(channels.rate), **noted(channels.timecode)}
        stage.GetRootLayer().customLayerData = {"dynaface": said}
        world = UsdGeom.Xform.Define(stage, WORLD)
        stage.SetDefaultPrim(world.GetPrim())
        if way.up == "z":
            world.AddRotateXOp().Set(90.0)
        if METRES[way.units] != 1:
            world.AddScaleOp().Set((1 / METRES[way.units],) * 3)
        pictures: dict[str, bytes] = {}
        for number, (figure, path) in enumerate(zip(figures, figure_paths(figures), strict=True)):
            pictures |= add_figure(stage, path, figure, options, within(tell, number, len(figures)))
            _stand(stage, path, figure.at, figure.turn)
        if way.sound:
            _sound(stage, way)
        stage.GetRootLayer().Save()
        del stage
        return at.read_bytes(), pictures


def figure_paths(figures: tuple[Figure, ...]) -> list[Sdf.Path]:
    """The prim of each figure."""
    return [WORLD.AppendChild(name) for name in prim_names(f.name for f in figures)]


def _stand(stage: Usd.Stage, path: Sdf.Path, at: Vector, turn: float) -> None:
    place = UsdGeom.Xformable(stage.GetPrimAtPath(path))
    if any(at):
        place.AddTranslateOp().Set(tuple(map(float, at)))
    if turn:
        place.AddRotateYOp().Set(float(turn))


def _sound(stage: Usd.Stage, way: StageWay) -> None:
    sound = UsdMedia.SpatialAudio.Define(stage, WORLD.AppendChild("Sound"))
    sound.CreateFilePathAttr(way.sound)
    sound.CreateAuralModeAttr(UsdMedia.Tokens.nonSpatial)
    sound.CreatePlaybackModeAttr(UsdMedia.Tokens.onceFromStart)
    sound.CreateStartTimeAttr(Sdf.TimeCode(way.heard_from))


def opened(how: Callable[[str], Any], path: Path) -> Any:
    """What the library makes of a file; raises InputError where it is none of its own."""
    try:
        made = how(os.fspath(path))
    except Exception:  # the library raises its own kind, with many causes, and words that are of no use to people
        made = None
    if made is None:
        raise InputError("this USD file cannot be read", hint="Export it again")
    return made


def open_stage(path: Path) -> Usd.Stage:
    """The stage of a file; raises InputError."""
    return opened(Usd.Stage.Open, path)


@dataclass(frozen=True)
class Moved:
    """What a stage's character does at frames. weights: target -> (n,); turns: joint's name -> (n, 4) against the joint above; at: joint's name ->
    (n, 3) where it is on the stage, in the stage's units.
    """

    weights: dict[str, Array]
    turns: dict[str, Array]
    at: dict[str, Array]


def sample_stage(stage: Usd.Stage, root: Sdf.Path, frames: Array, rate: Fraction) -> Moved:
    """A character of a stage at frames of a rate; raises InputError where it has no skeleton that moves."""
    cache = UsdSkel.Cache()
    prim = next((p for p in Usd.PrimRange(stage.GetPrimAtPath(root)) if p.IsA(UsdSkel.Skeleton)), None)
    if prim is None:
        raise InputError(f"{root} has no skeleton")
    cache.Populate(UsdSkel.Root(stage.GetPrimAtPath(root)), Usd.TraverseInstanceProxies())
    skeleton = UsdSkel.Skeleton(prim)
    query = cache.GetSkelQuery(skeleton)
    motion = query.GetAnimQuery()
    if not motion:
        raise InputError(f"the skeleton of {root} does not move")
    names = list(skeleton.GetJointNamesAttr().Get() or skeleton.GetJointsAttr().Get())
    mapper = dict(zip(query.GetJointOrder(), names, strict=True))
    own = [mapper.get(path, str(path)) for path in motion.GetJointOrder()]
    shapes = list(motion.GetBlendShapeOrder())
    weights, turns, places = [], [], []
    for frame in np.asarray(frames).tolist():
        code = Usd.TimeCode(frame * stage.GetTimeCodesPerSecond() / float(rate))
        weights.append(np.array(motion.ComputeBlendShapeWeights(code)))
        _, rotations, _ = motion.ComputeJointLocalTransformComponents(code)
        turns.append(np.array([[*q.GetImaginary(), q.GetReal()] for q in rotations]).reshape(len(own), 4))
        found = query.ComputeJointWorldTransforms(UsdGeom.XformCache(code))
        places.append(np.array(found).reshape(-1, 4, 4)[:, 3, :3])
    held, turned, stood = (np.stack(v) for v in (weights, turns, places))
    return Moved(
        {str(s): held[:, i] for i, s in enumerate(shapes)},
        {n: turned[:, i] for i, n in enumerate(own)},
        {n: stood[:, i] for i, n in enumerate(names)},
    )


def faults_of(stage: Usd.Stage) -> list[str]:
    """What USD's own validators say against a stage."""
    context = UsdValidation.ValidationContext(UsdValidation.ValidationRegistry().GetOrLoadAllValidators())
    return [f"{e.GetName()}: {e.GetMessage()}" for e in context.Validate(stage)]
