"""What performers' live values become, kept with each performer, and how each sender is read."""

from collections.abc import Sequence
from typing import Any

from dynaface.core.documents.model.feed_profile import FeedProfileBody
from dynaface.core.documents.model.record import parse
from dynaface.core.errors import InputError
from dynaface.core.records.records import Document
from dynaface.formats.table.recipe import Recipe, parse_recipe
from dynaface.services.edit_document import Wanted, change_document
from dynaface.services.work import Work, add_document, allow

MOST_LETTERS = 80  # of a performer's name


def list_feed_profiles(work: Work, production: str) -> Sequence[Document[FeedProfileBody]]:
    """The profiles of all performers of a production who were captured live."""
    with work.store.snapshot() as unit:
        allow(unit, production, work.person)
        return unit.documents.of_kind(production, FeedProfileBody)


def own_feed_profile(work: Work, production: str, performer: str) -> Document[FeedProfileBody]:
    """The profile of a performer, begun where there is none yet."""
    body = parse(FeedProfileBody, {"performer": performer}, "the feed profile")
    with work.store.unit() as unit:
        allow(unit, production, work.person)
        return add_document(unit, production, body, performer)


def change_feed_profile(
    work: Work, production: str, performer: str, label: str, wanted: Wanted
) -> Document[FeedProfileBody]:
    """Makes changes to a performer's profile on top of what it is now."""
    found = own_feed_profile(work, production, performer)
    return change_document(work, found.id, FeedProfileBody, found.version, label, wanted)


def kept_feed_recipe(work: Work, production: str, sender: str) -> Recipe | None:
    """How a sender was read last time, None where nobody has said it."""
    with work.store.unit() as unit:
        allow(unit, production, work.person)
        kept = unit.sources.recipe_for(production, _key(sender))
    return parse_recipe(kept) if kept else None


def keep_feed_recipe(work: Work, production: str, sender: str, given: Any, base: Recipe) -> Recipe:
    """How a sender is read from now on, on top of how it was; raises InputError."""
    if isinstance(given, dict) and isinstance(given.get("columns"), dict):
        given = {**given, "columns": {**base.columns, **given["columns"]}}
    recipe = parse_recipe(given, base)
    with work.store.unit() as unit:
        allow(unit, production, work.person)
        unit.sources.learn_recipe(production, _key(sender), recipe.describe())
    return recipe


def kept_feed_performer(work: Work, production: str, sender: str) -> str:
    """Whom a sender captured last time, "" where nobody has said it."""
    with work.store.unit() as unit:
        allow(unit, production, work.person)
        kept = unit.sources.recipe_for(production, _key(sender, "performer"))
    return str(kept["performer"]) if kept else ""


def keep_feed_performer(work: Work, production: str, sender: str, performer: str) -> str:
    """Whom a sender captures from now on; raises InputError."""
    if len(performer) > MOST_LETTERS:
        raise InputError(f"{performer[:40]!r}... is no performer", where="name", hint=f"At most {MOST_LETTERS} letters")
    with work.store.unit() as unit:
        allow(unit, production, work.person)
        unit.sources.learn_recipe(production, _key(sender, "performer"), {"performer": performer.strip()})
    return performer.strip()


def _key(sender: str, what: str = "recipe") -> str:
    return f"feed {what}\x1f{sender}"
