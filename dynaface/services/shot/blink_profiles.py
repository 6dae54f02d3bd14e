"""Blink profiles of a production, and loosening one blink from its maker."""

import numpy as np

from dynaface.core.curves.keys import Keys
from dynaface.core.documents.changes import path_of
from dynaface.core.documents.model.layer import LayerBody
from dynaface.core.documents.model.profiles import ProfilesBody, fresh_profiles
from dynaface.core.documents.model.record import parse
from dynaface.core.errors import InputError
from dynaface.core.keying.case import corrected
from dynaface.core.layers.maker import TOLERANCE, known_makers, placed_maker
from dynaface.core.records.records import Document
from dynaface.services.edit_document import change_document
from dynaface.services.key_rows import table_changes
from dynaface.services.shot.end_maker import beneath_maker
from dynaface.services.shot.snapshot import PROFILES_KEY
from dynaface.services.work import Work, add_document, allow

AROUND = 45  # frames to either side of a blink in which what it does lies


def own_profiles(work: Work, production: str) -> Document[ProfilesBody]:
    """The production's copies of the profiles, made where there are none yet."""
    body = parse(ProfilesBody, {"profiles": fresh_profiles()}, "the profiles")
    with work.store.unit() as unit:
        allow(unit, production, work.person)
        return add_document(unit, production, body, PROFILES_KEY)


def loosen_blink(work: Work, layer: str, version: int, maker: str, frame: int) -> Document[LayerBody]:
    """The blink at a frame is no longer made: keys that do the same stand in its place, to be changed by hand. Raises InputError where
    the maker makes none there, or in a layer that does not add.
    """
    beneath = beneath_maker(work, layer, maker)
    body, below = beneath.body, beneath.channels
    if body.does != "add":
        raise InputError("only in a layer that adds can a blink become keys", hint="Move the maker to such a layer")
    placed = body.makers[maker].placed
    if placed.maker != "blinks":
        raise InputError("this maker makes no blinks")
    made = known_makers()[placed.maker].make
    loose = sorted({*placed.parameters["loose"], frame})
    before = made(below, placed.parameters, beneath.around)
    after = made(below, placed_maker("blinks", {**placed.parameters, "loose": loose}).parameters, beneath.around)
    none = np.zeros(below.frames)
    first, stop = max(frame - AROUND, 0), min(frame + AROUND, below.frames)
    keys: dict[str, Keys] = {}
    for channel in sorted(set(before) | set(after)):
        gone = (before.get(channel, none) - after.get(channel, none))[first:stop]
        moved = np.flatnonzero(np.abs(gone) > TOLERANCE / 4)
        if len(moved):
            at, curve = first + int(moved[0]), gone[moved[0] : moved[-1] + 1].astype(np.float32)
            held = body.layer.keys.get(channel, ())
            keys[channel] = corrected(held, 0.0, at, curve, TOLERANCE, below.frames)
    if not keys:
        raise InputError(f"no blink is made at frame {frame}", hint="Go to a frame at which the eyes are shut")
    changes = [{"path": path_of("makers", maker, "loose"), "value": loose}, *table_changes(body.layer.keys, keys)]
    return change_document(work, layer, LayerBody, version, f"loosen the blink at {frame}", changes)
