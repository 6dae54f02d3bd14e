"""The general head and the landmark model that ship with the product (made by tools/characters, see NOTICE)."""

from functools import lru_cache

import numpy as np

from dynaface.assets import ASSETS
from dynaface.core.cast.standard_face import StandardFace, standard_face
from dynaface.core.track.head import Head
from dynaface.core.track.likeness import Places


@lru_cache(maxsize=1)
def general_head() -> Head:
    """The general head that ships with the product."""
    with np.load(ASSETS / "heads/general.npz", allow_pickle=False) as made:
        return Head(
            made["points"].astype(np.float64),
            made["triangles"],
            made["part"],
            made["uv"].astype(np.float64),
            made["triangle_uv"],
            made["eyes"].astype(np.float64),
            made["shapes"].astype(np.float64) * 1e-5,
            made["modes"].astype(np.float64) * 1e-5,
            tuple(str(n) for n in made["mode_names"]),
            made["layers"],
        )


@lru_cache(maxsize=1)
def general_face() -> StandardFace:
    """What the standard shapes do to the general head: what foreign characters are compared with."""
    return standard_face(general_head())


@lru_cache(maxsize=1)
def landmark_places() -> Places:
    """Where the landmarks lie on the general head."""
    with np.load(ASSETS / "heads/landmarks.npz", allow_pickle=False) as made:
        return Places(made["corners"], made["weights"].astype(np.float64), made["spread"].astype(np.float64))


def landmark_model() -> bytes:
    """The landmark library's model."""
    return (ASSETS / "models/face_landmarker.task").read_bytes()
