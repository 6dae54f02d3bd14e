"""What a take would be with mends accepted or keys edited, before anybody says so."""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, replace
from typing import Any

import numpy as np

from dynaface.services.pieces import Piece
from dynaface.services.take.edit_keys import changes_of_edit
from dynaface.services.take.evaluate_take import evaluate_take
from dynaface.services.take.find_body_snags import changes_of_body_mends
from dynaface.services.take.find_take_snags import changes_of_mends
from dynaface.services.take.snapshot import Wish
from dynaface.services.work import Work


@dataclass(frozen=True)
class Trial:
    """mends: keys of snags whose mends are tried; body_mends: of snags of the body; edit: an edit of keys that is tried."""

    mends: Sequence[str] = ()
    body_mends: Sequence[str] = ()
    edit: Mapping[str, Any] | None = None


def preview_take(work: Work, take: str, pieces: Sequence[Piece], wish: Wish, trial: Trial
                 ) -> tuple[dict[str, Any], dict[str, np.ndarray]]:  # fmt: skip
    """(head, arrays) as evaluate_take gives them, with what is wished for and tried in place of what is stored."""
    changes = list(wish.take)
    if trial.mends:
        changes += changes_of_mends(work, take, trial.mends)
    if trial.edit is not None:
        changes += changes_of_edit(work, take, trial.edit)
    join = list(wish.join)
    if trial.body_mends:
        join += changes_of_body_mends(work, take, trial.body_mends)
    return evaluate_take(work, take, pieces, replace(wish, take=changes, join=join))
