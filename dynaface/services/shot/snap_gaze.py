"""The looks of a capture become looks of a gaze maker: fixations steadied, at the aims that they meet."""

from dataclasses import dataclass
from uuid import uuid4

import numpy as np

from dynaface.core.documents.changes import path_of
from dynaface.core.documents.model.layer import LayerBody
from dynaface.core.errors import InputError
from dynaface.core.layers.gaze import snap
from dynaface.core.records.records import Document
from dynaface.services.edit_document import change_document
from dynaface.services.shot.end_maker import beneath_maker
from dynaface.services.work import Work


@dataclass(frozen=True)
class SnappedGaze:
    """fixations: how many were found; met: how many of them meet an aim; error: degrees by which those were off it, the median, None
    where none did.
    """

    layer: Document[LayerBody]
    fixations: int
    met: int
    error: float | None


def snap_gaze(work: Work, layer: str, version: int, maker: str, within: float) -> SnappedGaze:
    """Looks in place of those that a gaze maker has, one a fixation of what lies beneath it; it can be undone. Raises InputError where
    the eyes never hold.
    """
    beneath = beneath_maker(work, layer, maker)
    if beneath.body.makers[maker].maker != "gaze":
        raise InputError(f"a maker of {beneath.body.makers[maker].maker} has no looks")
    found = snap(beneath.channels, beneath.around, within)
    if not found.looks:
        raise InputError("the eyes beneath never hold a look", hint="Put looks in by hand")
    table = {uuid4().hex[:12]: [frame, aim] for frame, aim in found.looks}
    change = {"path": path_of("makers", maker, "looks"), "value": table}
    changed = change_document(work, layer, LayerBody, version, "looks of the capture", [change])
    error = round(float(np.median(found.errors)), 2) if found.errors else None
    return SnappedGaze(changed, len(found.errors) + found.missed, len(found.errors), error)
