"""Snags as they are listed, named and mended, whatever was looked through."""

from collections.abc import Mapping, Sequence
from typing import Any

from dynaface.core.documents.model.take import Dismissed
from dynaface.core.errors import NotFoundError
from dynaface.core.snags.snag import Snag

MAX_LISTED = 400


def listed_snags(
    found: Sequence[Snag], dismissed: Mapping[str, Dismissed], kinds: Sequence[Mapping[str, str]], silent: bool
) -> dict[str, Any]:
    """The snags that are open in their order, those that were dismissed, the kinds that were looked for, and whether there was no sound."""
    unsettled = [s for s in found if s.key not in dismissed]
    return {
        "snags": [s.describe() for s in unsettled[:MAX_LISTED]],
        "more": max(0, len(unsettled) - MAX_LISTED),
        "dismissed": [s.describe() | {"reason": dismissed[s.key].reason} for s in found if s.key in dismissed],
        "kinds": list(kinds),
        "silent": silent,
    }


def named_snags(found: Sequence[Snag], keys: Sequence[str]) -> list[Snag]:
    """The snags with these keys; raises NotFoundError for one that is gone."""
    by_key = {s.key: s for s in found}
    for key in keys:
        if key not in by_key:
            raise NotFoundError(f"the snag {key!r} is not there any more", hint="The list has been made anew")
    return [by_key[key] for key in keys]


def mend_label(chosen: Sequence[Snag]) -> str:
    """What accepting the mends of snags is called in the history."""
    kinds = {s.kind for s in chosen}
    what = next(iter(kinds)) if len(kinds) == 1 else f"{len(kinds)} kinds"
    return f"mend: {what}" + (f" in {len(chosen)} places" if len(chosen) > 1 else "")


def mend_steps(held: Mapping[str, Any], steps: Sequence[Mapping[str, Any]]) -> dict[str, dict[str, Any]]:
    """Steps of mends, plain, under keys of their own and ranked behind those that a stack holds; held: entries with a `rank`, by key."""
    out: dict[str, dict[str, Any]] = {}
    rank, number = max((entry.rank for entry in held.values()), default=0.0), 1
    for step in steps:
        while f"mend{number}" in held or f"mend{number}" in out:
            number += 1
        rank += 1
        out[f"mend{number}"] = {**step, "rank": rank}
    return out
