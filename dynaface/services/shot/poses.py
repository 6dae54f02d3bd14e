"""Poses of a production: kept from what a role does at a frame, shared by all shots."""

from collections.abc import Sequence
from typing import Any

import numpy as np

from dynaface.core import checks
from dynaface.core.documents.model.pose import POSED, PoseBody
from dynaface.core.documents.model.record import parse
from dynaface.core.documents.model.weight import check_regions
from dynaface.core.errors import InputError
from dynaface.core.records.records import Document
from dynaface.core.shapes.regions import REGION
from dynaface.services.shot.evaluate_shot import prepare_role
from dynaface.services.work import Work, add_document, allow

MAX_POSES = 1000


def list_poses(work: Work, production: str) -> list[Document[PoseBody]]:
    """All poses by name that are not put away."""
    with work.store.snapshot() as unit:
        allow(unit, production, work.person)
        found = [p for p in unit.documents.of_kind(production, PoseBody) if not p.body.archived]
    return sorted(found, key=lambda p: (p.body.name.casefold(), p.id))


def save_pose(
    work: Work, shot: str, role: str, frame: int, name: str, regions: Sequence[str] = (), picture: str = ""
) -> Document[PoseBody]:
    """What a role does at a frame, on some regions or on all, as a pose; raises InputError for a name that there is already."""
    check_regions(regions)
    prepared = prepare_role(work, shot, role)
    result = prepared.graph.tidied.result(work.cache)
    at = int(checks.within("frame", frame, 0, max(result.frames - 1, 0)))
    kept = [n for n in POSED if not regions or REGION[n] in regions]
    values = {n: round(float(v), 4) for n in kept if not np.isnan(v := result.column(n)[at])}
    return keep_pose(
        work, prepared.snapshot.documents.shot.production, {"name": name, "values": values, "picture": picture}
    )


def keep_pose(work: Work, production: str, fields: dict[str, Any]) -> Document[PoseBody]:
    """A pose from its fields."""
    body = parse(PoseBody, fields, "the pose")
    with work.store.unit() as unit:
        allow(unit, production, work.person)
        there = [p.body for p in unit.documents.of_kind(production, PoseBody) if not p.body.archived]
        if len(there) >= MAX_POSES:
            raise InputError(f"there are {len(there)} poses", hint="Put some away first")
        if any(p.name.casefold() == body.name.casefold() for p in there):
            raise InputError(f"there is a pose named {body.name!r} already", hint="Choose another name")
        return add_document(unit, production, body)
