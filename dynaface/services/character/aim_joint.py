"""Which way a joint has to turn or slide to go where somebody points."""

from typing import Any

from dynaface.core import checks
from dynaface.core.cast.propose_joints import aim, named_ways, try_joint
from dynaface.core.documents.model.character import CharacterBody
from dynaface.core.errors import InputError
from dynaface.core.shapes.standard import CHANNELS
from dynaface.services.load_source import load_character, load_geometry
from dynaface.services.work import Work, document_for, source_within


def aim_joint(work: Work, character: str, joint: str, channel: str, way: str, millimetres: float) -> dict[str, Any]:
    """The drive of a joint by a channel that takes what hangs on it a way (a word of `named_ways`) by millimetres."""
    checks.one_of("channel", channel, CHANNELS)
    checks.one_of("way", way, tuple(named_ways()))
    metres = checks.within("millimetres", millimetres, 0.1, 1000) / 1000
    with work.store.unit() as unit:
        found = document_for(work, unit, character, CharacterBody)
        source = source_within(unit, found.production, found.body.source, "character")
    skeleton = load_character(work, source).skeleton
    if skeleton is None:
        raise InputError("the character has no joints")
    tried = try_joint(skeleton, load_geometry(work, source), joint)
    if tried is None:
        raise InputError(f"nothing hangs on the joint {joint!r}", hint="Choose a joint that moves something")
    drive = aim(tried, named_ways()[way], metres, f"{joint}:{channel}")
    return {"key": drive.key, "joint": joint, "channel": channel, **drive.describe()}
