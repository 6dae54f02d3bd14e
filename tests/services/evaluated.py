"""Takes evaluated for tests: whole tables by part, as a page holds them."""

from typing import Any

import numpy as np

from dynaface.services.pieces import Piece
from dynaface.services.take.evaluate_take import evaluate_take
from dynaface.services.take.preview_take import Trial, preview_take
from dynaface.services.take.snapshot import Wish
from dynaface.services.work import Work


def evaluated(work: Work, take: str, parts: list[str], wish: Wish | None = None, trial: Trial | None = None
              ) -> tuple[dict[str, Any], dict[str, np.ndarray]]:  # fmt: skip
    """(head, part -> (frames, columns) or (frames, columns, size)); the head names targets, joints and what is shifted."""
    pieces = [Piece(p) for p in parts]
    if trial is None:
        head, arrays = evaluate_take(work, take, pieces, wish)
    else:
        head, arrays = preview_take(work, take, pieces, wish or Wish(), trial)
    words = {"weights": "targets", "motion": "joints", "shifts": "shifted"}
    head |= {words[p["part"]]: p["columns"] for p in head["pieces"] if p["part"] in words}
    sizes = {p["part"]: p["size"] for p in head["pieces"]}
    shaped = {
        part: a if sizes[part] == 1 else a.reshape(len(a), -1, sizes[part])
        for part, a in arrays.items()
        if part in sizes
    }
    return head, shaped


def put(path: str, value: Any) -> dict[str, Any]:
    """A change that gives a path a value."""
    return {"path": path, "value": value}
