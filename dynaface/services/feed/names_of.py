"""What a character calls the channels that it is driven by, for programs that expect its own names."""

from dynaface.core.cast.matching import match_targets
from dynaface.core.cast.sheet import CastSheet
from dynaface.core.documents.model.character import CharacterBody
from dynaface.core.errors import InputError
from dynaface.core.feed.messages import FACE_CHANNELS, as_word
from dynaface.core.shapes.standard import SHAPES
from dynaface.services.load_source import load_character
from dynaface.services.work import Work, allow, source_within


def names_of_character(work: Work, production: str, character: str) -> dict[str, str]:
    """Channel -> the target of a character that it drives before all others, as a word of an address; angles and travel as we call them, shapes that
    drive nothing left out. Raises InputError for a character that is not there.
    """
    with work.store.snapshot() as unit:
        allow(unit, production, work.person)
        present = {c.id: c for c in unit.documents.of_kind(production, CharacterBody)}
        if character not in present:
            raise InputError("this character is not there any more", where="character", hint="Choose another one")
        source = source_within(unit, production, present[character].body.source, "character")
    names = {channel: channel for channel in FACE_CHANNELS if channel not in SHAPES}
    for matched in match_targets(load_character(work, source), CastSheet()).matched:
        names.setdefault(matched.shape, as_word(matched.target))
    return names
