"""What a take would be with mends accepted or keys edited, before anybody says so."""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, replace
from typing import Any

import numpy as np

from dynaface.services.edit_keys import edited_hand
from dynaface.services.evaluate_take import Overrides, evaluate_take
from dynaface.services.find_take_snags import mended_tidy
from dynaface.services.work import Work


@dataclass(frozen=True)
class Wish:
    """mends: keys of snags whose mends are tried; edit: an edit of keys that is tried."""

    mends: Sequence[str] = ()
    edit: Mapping[str, Any] | None = None


def preview_take(work: Work, take: str, parts: Sequence[str], overrides: Overrides, wish: Wish
                 ) -> tuple[dict[str, Any], dict[str, np.ndarray]]:  # fmt: skip
    """(head, arrays) as evaluate_take gives them, with what is wished for in place of what is stored."""
    if wish.mends:
        overrides = replace(overrides, tidy=mended_tidy(work, take, wish.mends))
    if wish.edit is not None:
        overrides = replace(overrides, hand=edited_hand(work, take, wish.edit))
    return evaluate_take(work, take, parts, overrides)
