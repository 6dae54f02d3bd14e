"""The plain capture head: what the page needs to draw the performer's own head as a solve moves it."""

from functools import lru_cache
from typing import Any

import cv2
import numpy as np

from dynaface.core.errors import NotFoundError
from dynaface.core.solve.card import eye_centres
from dynaface.core.solve.jaw import JAW, jaw_arc
from dynaface.core.track.camera import FOV
from dynaface.core.track.head import BROWS, LASHES, LIPS, Head
from dynaface.formats.card_file import read_card
from dynaface.formats.head_file import general_head, landmark_places
from dynaface.services.footage.solve_take import POSES
from dynaface.services.work import Work, source_for

PAINT = 256  # pixels of the painted lips and brows
Arrays = dict[str, np.ndarray]


@lru_cache(maxsize=1)
def head_surface() -> Arrays:
    """What all capture heads share: corners (n,) vertices and uv (n, 2), triangles (t, 3) of corners, part (t,) and
    paint (2, PAINT, PAINT) 0..1 of lips and brows, first row on top.
    """
    head = general_head()
    used = head.part != LASHES
    pairs = np.stack([head.triangles[used].ravel(), head.triangle_uv[used].ravel()], axis=1)
    corners, at = np.unique(pairs, axis=0, return_inverse=True)
    paint = [cv2.resize(head.layers[i], (PAINT, PAINT), interpolation=cv2.INTER_AREA) / 255 for i in (LIPS, BROWS)]
    return {
        "corners": corners[:, 0], "uv": head.uv[corners[:, 1]], "triangles": at.reshape(-1, 3), "part": head.part[used],
        "paint": np.array(paint),
    }  # fmt: skip


def plain_head() -> tuple[dict[str, Any], Arrays]:
    """The general head as fetch_head gives it, once, looking at a camera with a lens of FOV; for what comes live."""
    head = general_head()
    pose = np.array([[0.0, 0.0, 0.0, 1.0, 0.0, 0.0, -0.45]])
    arrays = {"points": head.points, "shapes": head.shapes, "eyes": head.eyes, "poses": pose, **head_surface()}
    return {"fov": FOV, "first": 0}, arrays


def _marker_head(likeness: list[float], poses: np.ndarray) -> tuple[dict[str, Any], Arrays]:
    """The general head made like a performer as far as markers tell; poses in the head's own frame, where it was neutral."""
    head = general_head()
    points = head.points + np.tensordot(np.array(likeness), head.modes, axes=1)
    centres = np.array(eye_centres(head, points))
    arrays = {"points": points, "shapes": head.shapes, "eyes": centres, "poses": poses, **head_surface()}
    return {"fov": FOV, "first": 0}, arrays


def fetch_head(work: Work, source: str) -> tuple[dict[str, Any], Arrays]:
    """(head, arrays) of a solve: fov and picture size, the first frame of the clip; points (vertices, 3), shapes (52,
    vertices, 3), eyes (2, 3) and poses (frames, 7), NaN where no face was seen; arc (vertices, 3), of which w (1 - w) is added for
    the weight w of the shape number `jaw`.
    """
    with work.store.unit() as unit:
        found = source_for(work, unit, source)
        poses = unit.sources.read_block(source, POSES)
    about = found.info.get("solve", {})
    if poses is not None and "likeness" in about:
        return _marker_head(about["likeness"], poses)
    if poses is None or "cardMedium" not in about:
        raise NotFoundError("there is no capture head for these curves; they are no solve of footage")
    head: Head = general_head()
    card = read_card(work.media.get(about["cardMedium"]), head)
    centres = np.array(eye_centres(head, card.points))
    facts = {"fov": card.fov, "first": about["first"]}
    arrays = {"points": card.points, "shapes": card.shapes, "eyes": centres, "poses": poses, **head_surface()}
    if about.get("arc"):  # solves made before go straight
        facts["jaw"], arrays["arc"] = JAW, jaw_arc(card.points, card.shapes, landmark_places())
    return facts, arrays
