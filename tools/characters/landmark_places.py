"""Where on the general head the landmark library sees each of its points.

`python -m tools.characters.landmark_places --out dynaface/assets/heads/landmarks.npz`: renders heads of several made-up people,
finds landmarks in the pictures and carries each back to the surface; the median place counts.
"""

import argparse
from dataclasses import replace
from fractions import Fraction
from pathlib import Path

import numpy as np
from scipy.spatial import cKDTree

from dynaface.assets import ASSETS
from dynaface.core.body.rotations import head_rotation, rotate
from dynaface.core.curves.channels import Channels
from dynaface.core.track.camera import camera_of
from dynaface.core.track.head import SKIN
from dynaface.core.track.landmarks import LandmarkFinder
from dynaface.core.track.surface import surface_at
from dynaface.formats.head_file import general_head
from dynaface.sims.footage.clip import NECK, random_setting, render
from dynaface.sims.footage.performer import make_performer
from dynaface.sims.footage.script import NAMES

ANGLES = [(0, 0, 0), (8, 0, 0), (-8, 0, 0), (0, 5, 0), (0, -5, 0), (4, 3, 0), (-4, -3, 0)]


def places(seed: int) -> np.ndarray:
    """(angles, 468, 3) points on the general head at rest, NaN where a landmark fell beside it."""
    head = general_head()
    performer = make_performer(head, seed, 0.0)
    setting = replace(random_setting(seed), noise=0.004)
    values = np.zeros((len(ANGLES) * 6, len(NAMES)), np.float32)
    values[:, -3:] = np.repeat(ANGLES, 6, axis=0)
    pictures = list(render(performer, Channels(NAMES, values, Fraction(30)), setting, seed))
    skin = head.triangles[head.part == SKIN]
    camera = camera_of(*setting.size, setting.fov)
    out = np.full((len(ANGLES), 468, 3), np.nan)
    with LandmarkFinder((ASSETS / "models/face_landmarker.task").read_bytes()) as finder:
        found = list(finder.all(pictures))
    for number, angles in enumerate(ANGLES):
        last = found[number * 6 + 5]
        if last is None:
            continue
        turn = head_rotation(*(np.array([float(a)]) for a in angles))[0]
        seen = rotate(turn, performer.points - NECK) + NECK - [0, 0, setting.away]
        triangle, weights = surface_at(camera.project(seen), seen[:, 2], skin, setting.size[::-1])
        at = last.points[:468].round().astype(int).clip(0, np.array(setting.size) - 1)
        hit = triangle[at[:, 1], at[:, 0]]
        corners = head.points[skin[hit]]
        out[number] = np.where(
            (hit >= 0)[:, None], (corners * weights[at[:, 1], at[:, 0]][..., None]).sum(axis=1), np.nan
        )
    return out


def main() -> None:
    """Command line."""
    parser = argparse.ArgumentParser(description=__doc__)
    parser.add_argument("--out", type=Path, required=True)
    options = parser.parse_args()
    found = np.concatenate([places(seed) for seed in range(9001, 9013)])
    middle = np.nanmedian(found, axis=0)
    head = general_head()
    skin = head.triangles[head.part == SKIN]
    corners = head.points[skin]
    _, nearest = cKDTree(corners.mean(axis=1)).query(middle)
    spread = np.sqrt(np.nanmean(((found - middle) ** 2).sum(axis=2), axis=0))
    weights = []
    for triangle, point in zip(nearest, middle, strict=True):
        a, b, c = corners[triangle]
        solved = np.linalg.lstsq(
            np.vstack([np.stack([a, b, c], axis=1), np.ones(3) * 10]), np.append(point, 10), rcond=None
        )[0]
        weights.append(np.clip(solved, 0, 1) / np.clip(solved, 0, 1).sum())
    np.savez_compressed(
        options.out,
        corners=skin[nearest].astype(np.int32),
        weights=np.array(weights, np.float32),
        spread=spread.astype(np.float32),
    )
    print(
        f"{options.out}: spread median {np.median(spread) * 1000:.1f} mm, 90% {np.quantile(spread, 0.9) * 1000:.1f} mm"
    )


if __name__ == "__main__":
    main()
