"""What a role of a shot would be with keys of a layer edited, or mends accepted, before anybody says so."""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, replace
from typing import Any

import numpy as np

from dynaface.services.pieces import Piece
from dynaface.services.shot.edit_layer_keys import changes_of_layer_edit
from dynaface.services.shot.evaluate_shot import evaluate_role
from dynaface.services.shot.find_role_snags import wish_of_mends
from dynaface.services.shot.snapshot import ShotWish
from dynaface.services.work import Work


@dataclass(frozen=True)
class RoleTrial:
    """layer, edit: an edit of keys of a layer that is tried; mends: keys of snags whose mends are."""

    layer: str = ""
    edit: Mapping[str, Any] | None = None
    mends: Sequence[str] = ()


def preview_role(work: Work, shot: str, role: str, pieces: Sequence[Piece], wish: ShotWish, trial: RoleTrial
                 ) -> tuple[dict[str, Any], dict[str, np.ndarray]]:  # fmt: skip
    """(head, arrays) as evaluate_role gives them, with what is wished for and tried in place of what is stored."""
    if trial.edit is not None:
        asked = dict(wish.layers or {})
        asked[trial.layer] = [*asked.get(trial.layer, ()), *changes_of_layer_edit(work, trial.layer, trial.edit)]
        wish = replace(wish, layers=asked)
    if trial.mends:
        wish = wish_of_mends(work, shot, role, trial.mends)
    return evaluate_role(work, shot, role, pieces, wish)
