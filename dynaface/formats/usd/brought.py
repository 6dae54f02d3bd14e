"""What a USD stage says, for what was handed over and comes back: always y up and in metres, whatever the stage."""

import tempfile
from collections.abc import Sequence
from fractions import Fraction
from pathlib import Path
from typing import Any

import numpy as np
from pxr import Gf, Sdf, Usd, UsdGeom, UsdSkel

from dynaface.core.body.rotations import about, continuous, multiply, normalised, rotate
from dynaface.core.errors import InputError
from dynaface.core.returns.brought import Brought
from dynaface.core.returns.moments import even_moments
from dynaface.formats.usd.stage import open_stage, opened

Array = np.ndarray
TEXT = b"#usda"


def read_brought(data: bytes, near: Fraction) -> dict[str, Brought]:
    """name -> character, by its prim where there are several, else under ""; raises InputError where no skeleton moves. near: the rate that it
    was handed over at.
    """
    with tempfile.TemporaryDirectory() as folder:
        path = Path(folder) / ("stage.usda" if data.startswith(TEXT) else "stage.usdc")
        path.write_bytes(data)
        _by_itself(path)
        stage = open_stage(path)
        cache = UsdSkel.Cache()
        found = {}
        for prim in stage.Traverse():
            if prim.IsA(UsdSkel.Root):
                cache.Populate(UsdSkel.Root(prim), Usd.TraverseInstanceProxies())
        for prim in stage.Traverse():
            if prim.IsA(UsdSkel.Skeleton):
                query = cache.GetSkelQuery(UsdSkel.Skeleton(prim))
                if query and query.GetAnimQuery():
                    found[prim.GetParent().GetName()] = _character(stage, query, near)
        del cache, stage
    if not found:
        raise InputError("no skeleton of this stage moves", hint="Export the animation with the character")
    return found if len(found) > 1 else {"": next(iter(found.values()))}


def _by_itself(path: Path) -> None:
    """Raises InputError for a stage that draws on other files: a path that somebody sends is never opened."""
    layer: Sdf.Layer = opened(Sdf.Layer.OpenAsAnonymous, path)
    drawn = list(layer.GetCompositionAssetDependencies())
    layer.Traverse(Sdf.Path.absoluteRootPath, lambda at: drawn.extend(_clips(layer, at)))
    if drawn:
        raise InputError(f"this stage draws on another file, {str(drawn[0])[:120]!r}", hint="Export it as one file, flattened")  # fmt: skip


def _clips(layer: Sdf.Layer, at: Sdf.Path) -> list[str]:
    """Prims whose values come from clips in other files."""
    spec = layer.GetPrimAtPath(at) if at.IsPrimPath() or at.IsPrimVariantSelectionPath() else None
    return [str(at)] if spec and spec.HasInfo("clips") else []


def _character(stage: Usd.Stage, query: Any, near: Fraction) -> Brought:
    motion, skeleton = query.GetAnimQuery(), query.GetSkeleton()
    per_second = stage.GetTimeCodesPerSecond()
    keyed = {*motion.GetJointTransformTimeSamples(), *motion.GetBlendShapeWeightTimeSamples()}
    at, rate = even_moments([np.array(sorted(keyed), np.float64) / per_second], near)
    paths = [str(p) for p in query.GetJointOrder()]
    names = [str(n) for n in skeleton.GetJointNamesAttr().Get() or [p.rsplit("/", 1)[-1] for p in paths]]
    if len(set(names)) != len(names):
        names = paths
    of = dict(zip(paths, names, strict=True))
    above = {of[p]: of[p.rsplit("/", 1)[0]] for p in paths if p.rsplit("/", 1)[0] in of and "/" in p}
    shapes = [str(s) for s in motion.GetBlendShapeOrder()]
    moved = [str(p) for p in motion.GetJointOrder()]
    rests = _split(np.array(query.ComputeJointLocalTransforms(Usd.TimeCode.Default(), atRest=True)))
    turns, places = (np.tile(part, (len(at), 1, 1)) for part in rests)
    weights = np.zeros((len(at), len(shapes)))
    order = [paths.index(p) for p in moved if p in of]
    known = [n for n, p in enumerate(moved) if p in of]
    for frame, code in enumerate((at * per_second).tolist()):
        if shapes:
            weights[frame] = motion.ComputeBlendShapeWeights(Usd.TimeCode(code))
        shifts, rotations, _ = motion.ComputeJointLocalTransformComponents(Usd.TimeCode(code))
        turns[frame, order] = _quaternions(rotations)[known]
        places[frame, order] = np.array(shifts, np.float64).reshape(-1, 3)[known]
    turns = continuous(normalised(turns))
    _onto_world(stage, skeleton.GetPrim(), [n for n, name in enumerate(names) if name not in above], turns, places)
    curves = {s: weights[:, n] for n, s in enumerate(shapes) if ":" not in s}
    return Brought(
        len(at), rate, curves, _by(names, turns), _by(names, places), above, rest=dict(zip(names, rests[0], strict=True))
    )  # fmt: skip


def _by(names: Sequence[str], values: Array) -> dict[str, Array]:
    return {name: values[:, n] for n, name in enumerate(names)}


def _quaternions(rotations: Any) -> Array:
    return np.array([[*q.GetImaginary(), q.GetReal()] for q in rotations], np.float64).reshape(-1, 4)


def _split(matrices: Array) -> tuple[Array, Array]:
    """(turns (n, 4), places (n, 3)) of matrices as USD has them; what they scale is left out."""
    turns = [Gf.Matrix4d(m.tolist()).RemoveScaleShear().ExtractRotationQuat() for m in matrices]
    return _quaternions(turns), matrices[:, 3, :3]


def _onto_world(stage: Usd.Stage, prim: Usd.Prim, tops: Sequence[int], turns: Array, places: Array) -> None:
    """Puts the topmost joints where they are on the stage, y up and in metres, in place."""
    matrix = np.array(UsdGeom.XformCache(Usd.TimeCode.EarliestTime()).GetLocalToWorldTransform(prim))
    (turn,), (place,) = _split(matrix[None])
    scale = float(np.cbrt(abs(np.linalg.det(matrix[:3, :3]))))
    if UsdGeom.GetStageUpAxis(stage) == UsdGeom.Tokens.z:
        stand = about("x", -90.0)
        turn, place = multiply(stand, turn), rotate(stand, place)
    metres = UsdGeom.GetStageMetersPerUnit(stage)
    places *= scale * metres
    for top in tops:
        places[:, top] = rotate(np.broadcast_to(turn, (len(places), 4)), places[:, top]) + place * metres
        turns[:, top] = multiply(turn, turns[:, top])
