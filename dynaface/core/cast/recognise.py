"""Recognises targets with foreign names by what they do to the mesh.

The character's face is laid over the standard one, first by where all its motion lies, then by the targets that were
recognised; each round sees both more alike. A target is compared with each standard shape by the mean motion about
places of the face. What is left over is tried as pieces of one shape, and as mixtures.
"""

from collections.abc import Callable
from dataclasses import dataclass

import numpy as np
from scipy.interpolate import RBFInterpolator
from scipy.optimize import linear_sum_assignment, nnls

from dynaface.core.cast.geometry import Geometry, areas
from dynaface.core.cast.match import Match
from dynaface.core.cast.standard_face import NEAR, WIDE, Array, StandardFace, features_at, motion_of
from dynaface.core.shapes.standard import SHAPES

ROUNDS = 4
# Likeness from which a target helps to lay the faces over each other, is offered as a guess, and is matched.
SEEN, GUESSED, SURE = 0.45, 0.6, 0.86
LOCAL, PIECES = 0.86, 0.72  # how alike a piece must be where it moves, and what all pieces together must explain
OWN, MIXTURE, LEAST_GAIN = 0.85, 0.4, 0.12  # of what a pose does, and of a shape by a mixture; and a gain worth having
FEW = 40  # a character with fewer targets than this may have poses where others have shapes
CELLS = 11  # finer surfaces are taken together to this many cells for the spread of the motion
Likeness = Callable[[Callable[[Array], Array]], Array]
# glTF has a face look along +z with y up; these are the ways in which files differ.
_TURNS = (np.eye(3), np.diag([-1.0, 1.0, -1.0]), np.array([[1.0, 0, 0], [0, 0, 1], [0, -1, 0]]))


@dataclass(frozen=True)
class Laid:
    """A character's moving surface: points (n, 3) and area (n,) with offsets (targets, n, 3), laid over the standard face."""

    targets: tuple[str, ...]
    points: Array
    area: Array
    offsets: Array


def recognise(geometry: Geometry, standard: StandardFace, known: dict[str, str] | None = None
              ) -> tuple[dict[str, Match], dict[str, Match]]:  # fmt: skip
    """(target -> what drives it, target -> a guess that is not sure enough to be used), for targets that do what a standard
    shape does; known: targets already matched by name, which help to lay the faces over each other and are not given again.
    """
    known = {t: s for t, s in (known or {}).items() if s in SHAPES}
    surface = _surface(geometry)
    if surface is None:
        return {}, {}
    turn = max(_TURNS, key=lambda t: _score(_laid_over(surface, standard, t, known, 1)[0]))
    likeness, features = _laid_over(surface, standard, turn, known, ROUNDS)
    targets = surface.targets
    open_targets = [i for i, t in enumerate(targets) if t not in known]
    open_shapes = [i for i, s in enumerate(SHAPES) if s not in known.values()]
    out: dict[str, Match] = {}
    guesses: dict[str, Match] = {}
    part = likeness[np.ix_(open_targets, open_shapes)]
    # Only likeness that is worth a guess counts: else a poor match elsewhere would be bought with a good one here.
    for row, column in zip(*linear_sum_assignment(-np.maximum(part - GUESSED, 0)), strict=True):
        value = round(float(part[row, column]), 3)
        found = Match(((SHAPES[open_shapes[column]], 1.0),), "shape", value)
        if value >= SURE:
            out[targets[open_targets[row]]] = found
        elif value >= GUESSED:
            guesses[targets[open_targets[row]]] = found

    def still_open() -> tuple[list[int], set[str]]:
        taken = set(known.values()) | {s for m in out.values() for s, _ in m.parts}
        return [i for i in open_targets if targets[i] not in out], taken

    def likeness_to(make: Callable[[Array], Array]) -> Array:
        return 0.6 * _cosines(features[0], make(standard.near)) + 0.4 * _cosines(features[1], make(standard.wide))

    free, taken = still_open()
    _pairs(out, targets, free, likeness_to, taken)
    free, taken = still_open()
    _pieces(out, targets, free, features[1], standard.wide, taken)
    if len(targets) < FEW:
        free, taken = still_open()
        _mixtures(out, targets, free, features[1], standard.wide, taken)
    held = {s for m in out.values() for s, _ in m.parts}
    return out, {t: m for t, m in guesses.items() if t not in out and m.shape not in held}


def _surface(geometry: Geometry) -> Laid | None:
    moving = [m for m in geometry.meshes if m.offsets and len(m.points)]
    names = tuple(dict.fromkeys(t for m in moving for t in m.offsets))
    if not names:
        return None
    points = np.concatenate([m.points for m in moving])
    area = np.concatenate([areas(m.points, m.triangles) for m in moving])
    offsets = np.zeros((len(names), len(points), 3), np.float32)
    start = 0
    for mesh in moving:
        for target, offset in mesh.offsets.items():
            offsets[names.index(target), start : start + len(mesh.points)] = offset
        start += len(mesh.points)
    still = (np.abs(offsets).max(axis=(1, 2)) < 1e-9) if len(offsets) else np.zeros(0, bool)
    names = tuple(n for n, s in zip(names, still, strict=True) if not s)
    return _coarsened(Laid(names, points, area, offsets[~still])) if names else None


def _coarsened(fine: Laid) -> Laid:
    """The surface by cells, so that a fine mesh costs no more than a coarse one."""
    _, _, spread = motion_of(fine.points, fine.area, fine.offsets)
    size = float(spread.mean()) / CELLS
    if size <= 0 or len(fine.points) < 2000:
        return fine
    # What lies together but moves apart, such as lips, must stay apart.
    most = int(np.argmax((fine.offsets[..., 1] ** 2).sum(axis=1)))
    moved = fine.points + fine.offsets[most]
    cells = np.floor(np.concatenate([fine.points, moved], axis=1) / size).astype(np.int64)
    _, group = np.unique(cells, axis=0, return_inverse=True)
    order = np.argsort(group.ravel(), kind="stable")
    starts = np.flatnonzero(np.diff(group.ravel()[order], prepend=-1))
    weight = np.maximum(fine.area[order], 1e-20)
    area = np.add.reduceat(weight, starts)
    points = np.add.reduceat(fine.points[order] * weight[:, None], starts) / area[:, None]
    offsets = np.add.reduceat(fine.offsets[:, order] * weight[:, None], starts, axis=1) / area[:, None]
    return Laid(fine.targets, points, area, offsets.astype(np.float32))


def _score(likeness: Array) -> float:
    rows, columns = linear_sum_assignment(-likeness)
    return float(np.sort(likeness[rows, columns])[::-1][:30].sum())


def _laid_over(surface: Laid, standard: StandardFace, turn: Array, known: dict[str, str], rounds: int
               ) -> tuple[Array, tuple[Array, Array]]:  # fmt: skip
    """(targets, 52) likeness with the character turned so, and the features that it comes from."""
    points, offsets = surface.points @ turn.T, surface.offsets @ turn.T.astype(np.float32)
    centres, middle, spread = motion_of(points, surface.area, offsets)
    scale = standard.spread / np.maximum(spread, 1e-12)
    flat = (points - middle) * scale + standard.middle
    middles = (centres - middle) * scale + standard.middle
    scaled = offsets * scale.astype(np.float32)
    placed = flat
    fixed = [(i, SHAPES.index(known[t])) for i, t in enumerate(surface.targets) if t in known]
    for round_ in range(rounds):
        near, wide = (features_at(standard.places, w, placed, surface.area, scaled) for w in (NEAR, WIDE))
        sharp = 0.25 if round_ == 0 else 0.6
        likeness = sharp * _cosines(near, standard.near) + (1 - sharp) * _cosines(wide, standard.wide)
        if round_ == rounds - 1:
            break
        pairs = fixed + [
            (r, c)
            for r, c in zip(*linear_sum_assignment(-np.maximum(likeness - SEEN, 0)), strict=True)
            if likeness[r, c] > SEEN and surface.targets[r] not in known
        ]
        if len(pairs) < 8:
            break
        rows, columns = np.array(pairs).T
        placed = _warped(flat, middles[rows], standard.centres[columns], 8.0 if round_ == 0 else 1.5)
    return likeness, (near, wide)


def _warped(points: Array, ours: Array, theirs: Array, stiff: float) -> Array:
    """Points carried by what takes our centres to theirs: an affine part and a soft bend."""
    if np.linalg.matrix_rank(ours - ours.mean(axis=0), tol=1e-4) < 3:
        return points + (theirs - ours).mean(axis=0)
    bend = RBFInterpolator(ours * 10, theirs - ours, kernel="thin_plate_spline", smoothing=stiff)
    # Far from what moves, a bend says nothing: it is held to what it is at the rim.
    low, high = ours.min(axis=0) - 0.03, ours.max(axis=0) + 0.03
    return points + bend(np.clip(points, low, high) * 10)


def _cosines(one: Array, other: Array) -> Array:
    a, b = one.reshape(len(one), -1), other.reshape(len(other), -1)
    a = a / np.maximum(np.linalg.norm(a, axis=1, keepdims=True), 1e-12)
    b = b / np.maximum(np.linalg.norm(b, axis=1, keepdims=True), 1e-12)
    return np.asarray(a @ b.T)


def _pairs(
    out: dict[str, Match], targets: tuple[str, ...], free: list[int], likeness_to: Likeness, taken: set[str]
) -> None:
    """Targets that do both sides of a shape at once."""
    stems = [s.removesuffix("Left") for s in SHAPES if s.endswith("Left") and not s.startswith(("jaw", "mouthLeft"))]
    stems = [s for s in stems if s + "Left" not in taken and s + "Right" not in taken]
    both = np.array([[SHAPES.index(s + side) for side in ("Left", "Right")] for s in stems]).reshape(-1, 2)
    if not free or not len(both):
        return
    part = likeness_to(lambda features: features[both].sum(axis=1))[free]
    for row, column in zip(*linear_sum_assignment(-part), strict=True):
        if part[row, column] >= SURE:
            stem = stems[column]
            halves = ((stem + "Left", 0.5), (stem + "Right", 0.5))
            out[targets[free[row]]] = Match(halves, "split", round(float(part[row, column]), 3))


def _pieces(out: dict[str, Match], targets: tuple[str, ...], free: list[int], features: Array, standard: Array,
            taken: set[str]) -> None:  # fmt: skip
    """Targets that are a part of one shape: where they move, they move as it does; together they are all of it."""
    for number, shape in enumerate(SHAPES):
        if shape in taken:
            continue
        whole = standard[number]
        found = []
        for i in free:
            mine = features[i]
            length = np.linalg.norm(mine, axis=1)
            there = length > 0.25 * length.max(initial=0.0)
            ours, theirs = mine[there].ravel(), whole[there].ravel()
            share = float(theirs @ theirs) / max(float((whole**2).sum()), 1e-20)
            like = float(ours @ theirs) / max(float(np.linalg.norm(ours) * np.linalg.norm(theirs)), 1e-20)
            if targets[i] not in out and like > LOCAL and share > 0.15:
                found.append(i)
        if len(found) < 2:
            continue
        gains, rest = nnls(features[found].reshape(len(found), -1).T, whole.ravel())
        explained = 1 - rest**2 / max(float((whole**2).sum()), 1e-20)
        used = [i for i, g in zip(found, gains, strict=True) if g > 0.3]
        if explained > PIECES and len(used) > 1:
            for i in used:
                out[targets[i]] = Match(((shape, 1.0),), "split", round(explained, 3))


def _mixtures(out: dict[str, Match], targets: tuple[str, ...], free: list[int], features: Array, standard: Array,
              taken: set[str]) -> None:  # fmt: skip
    """For characters with a few poses only: each missing shape is made of them as well as it can be."""
    dictionary = standard.reshape(len(SHAPES), -1).T
    able = [i for i in free if targets[i] not in out and _explained(dictionary, features[i].ravel())[1] > OWN]
    if not able:
        return
    columns = features[able].reshape(len(able), -1).T
    parts: dict[int, list[tuple[str, float, float]]] = {}
    for number, shape in enumerate(SHAPES):
        if shape in taken:
            continue
        gains, explained = _explained(columns, standard[number].ravel())
        for i, gain in zip(able, gains, strict=True):
            if explained > MIXTURE and gain > LEAST_GAIN:
                parts.setdefault(i, []).append((shape, float(gain), explained))
    for i, found in parts.items():
        kept = sorted(found, key=lambda f: -f[1])[:6]
        sure = round(float(np.mean([e for _, _, e in kept])), 3)
        out[targets[i]] = Match(tuple((s, round(g, 3)) for s, g, _ in kept), "mixture", sure)


def _explained(columns: Array, wanted: Array) -> tuple[Array, float]:
    gains, rest = nnls(columns, wanted)
    return gains, 1 - rest**2 / max(float(wanted @ wanted), 1e-20)
