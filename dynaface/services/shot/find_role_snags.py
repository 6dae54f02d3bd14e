"""Snags of a role of a shot: found on what its layers and its character make, mended in a layer on top."""

from collections.abc import Sequence
from dataclasses import replace
from typing import Any

import numpy as np

from dynaface.core.cast.crossings import WORDS as CROSSING_WORDS
from dynaface.core.cast.crossings import find_crossings
from dynaface.core.curves.channels import Channels, Floats
from dynaface.core.curves.known_runs import runs
from dynaface.core.documents.model.layer import LayerBody
from dynaface.core.documents.model.record import parse
from dynaface.core.errors import InputError
from dynaface.core.identity import content_key
from dynaface.core.perform.join import contacts_of, turns_of_local
from dynaface.core.perform.join_settings import JoinSettings
from dynaface.core.records.records import Document
from dynaface.core.snags.find import DETECTORS, find_snags
from dynaface.core.snags.propose import joined
from dynaface.core.snags.snag import Evidence, Snag, severity
from dynaface.core.snags_body.evidence import BodyEvidence, Shown
from dynaface.core.snags_body.find import BODY_DETECTORS, find_body_snags
from dynaface.core.tidy.stack import evaluate, parse_stack
from dynaface.services.edit_document import change_document, edited
from dynaface.services.listed_snags import listed_snags, mend_label, named_snags
from dynaface.services.shot.edit_layer_keys import changes_of_strokes
from dynaface.services.shot.evaluate_shot import PreparedRole, prepare_role
from dynaface.services.shot.make_shot import add_layer
from dynaface.services.shot.shot_sound import shot_sound
from dynaface.services.shot.snapshot import ShotWish
from dynaface.services.work import Work

LAYER = "mends"
THROUGH, OFF_PROP = "through itself", "hand off a prop"
SHORT, FAR = 0.02, 0.2  # metres that a hand stays away from a prop at which it is said, and that are as bad as can be
BODY_KINDS = ("foot slides", "through the ground", "knee pop", "body spike")
"""What cuts and blends of bodies can do to a character; the rest is looked for in their takes, where bodies are tidied."""
LOOKED_FOR = tuple(k for k in DETECTORS if k != "sound off")
"""Where a sound is late, its take is: that is put right at Gather or Tidy."""
MOVED = 1e-5  # by which a mend has to move a channel
WORST = 3.0  # millimetres of a crossing that is as bad as can be
REGIONS = {"lips": ("lips", ("mouthClose", "jawOpen")), "teeth upper": ("lips", ("mouthUpperUpLeft", "mouthUpperUpRight")),
           "teeth lower": ("lips", ("mouthLowerDownLeft", "mouthLowerDownRight")),
           "lid left": ("lids", ("eyeBlinkLeft",)), "lid right": ("lids", ("eyeBlinkRight",))}  # fmt: skip


def list_role_snags(work: Work, shot: str, role: str) -> dict[str, Any]:
    """The snags of a role that are open, worst first, those that were dismissed, and the kinds that were looked for."""
    prepared = prepare_role(work, shot, role)
    found, silent = _snags_of(work, prepared)
    through = {"name": THROUGH, "label": "Through itself", "help": "Where the character's mesh goes through itself."}
    off = {"name": OFF_PROP, "label": "Hand off a prop", "help": "A hand that is to hold a prop does not reach it."}
    bodies = [BODY_DETECTORS[k].describe() for k in BODY_KINDS] if prepared.graph.head is not None else []
    kinds = [
        *(DETECTORS[k].describe() for k in LOOKED_FOR),
        through,
        *bodies,
        *([off] if prepared.graph.props is not None else []),
    ]
    return listed_snags(found, prepared.snapshot.role.dismissed, kinds, silent)


def mend_role(work: Work, shot: str, role: str, keys: Sequence[str]) -> Document[LayerBody]:
    """Accepts the mends of these snags as keys of the layer of mends, which lies on top and is made where there is none; it can be undone."""
    prepared = prepare_role(work, shot, role)
    chosen = named_snags(_snags_of(work, prepared)[0], keys)
    strokes = _strokes(prepared, chosen)
    layer = _layer_of(prepared) or add_layer(work, shot, role, LAYER, "add", [])
    changes = changes_of_strokes(work, layer, strokes)
    return change_document(work, layer.id, LayerBody, layer.version, mend_label(chosen), changes)


def wish_of_mends(work: Work, shot: str, role: str, keys: Sequence[str]) -> ShotWish:
    """The role with these mends, for looking at them first."""
    prepared = prepare_role(work, shot, role)
    strokes = _strokes(prepared, named_snags(_snags_of(work, prepared)[0], keys))
    stored = _layer_of(prepared)
    if stored is not None:
        return ShotWish(layers={stored.id: changes_of_strokes(work, stored, strokes)})
    found = prepared.snapshot.documents.shot
    rank = max((n.body.rank for n in prepared.snapshot.layers), default=0.0) + 1
    body = parse(LayerBody, {"shot": shot, "role": role, "name": LAYER, "rank": rank}, "the layer")
    fresh = Document("", found.production, LayerBody.kind, "", 0, body, found.created)
    changes = changes_of_strokes(work, fresh, strokes, ShotWish(top=fresh))
    return ShotWish(top=replace(fresh, body=edited(body, changes)))


def _layer_of(prepared: PreparedRole) -> Document[LayerBody] | None:
    """The layer of mends, if there is one that takes them."""
    own = [n for n in prepared.heard if n.body.name == LAYER and n.body.does == "add" and not n.body.locked]
    return own[-1] if own else None


def _snags_of(work: Work, prepared: PreparedRole) -> tuple[tuple[Snag, ...], bool]:
    """(all snags, worst first, those that were dismissed included; whether there is no sound)."""
    name, sound = shot_sound(work, prepared.snapshot.documents.shot.id, prepared.snapshot.key)
    heard = sound if np.any(sound.samples) else None
    node = prepared.graph.tidied
    cast = prepared.graph.cast
    performed = prepared.graph.performed
    nodes = (cast, performed, prepared.graph.props)
    key = content_key("role snags", node.key, name, [n.key if n else "" for n in nodes])

    def look() -> tuple[Snag, ...]:
        more = [*_crossings(prepared), *_of_body(prepared), *_of_props(prepared)]
        found = find_snags(Evidence(node.result(work.cache), heard), LOOKED_FOR, more)
        # A layer that adds cannot fill a gap: that is done in the take.
        return tuple(replace(s, steps=()) if s.kind == "gap" else s for s in found)

    return work.cache.get_or_make(key, look), heard is None


def _crossings(prepared: PreparedRole) -> list[Snag]:
    character, node = prepared.snapshot.character, prepared.graph.cast
    if character is None or character.study is None or node is None:
        return []
    cast = node.result(prepared.cache)
    out = []
    for c in find_crossings(cast.targets, cast.weights, character.study.edges):
        region, channels = REGIONS[c.kind]
        words = f"On this character the {CROSSING_WORDS[c.kind]}, by {c.depth:g} mm at frame {c.peak}."
        bad = severity(c.depth, 0, WORST)
        out.append(Snag(THROUGH, region, channels, c.first, c.last, bad, c.depth, 0, "mm", words))
    return out


def _of_body(prepared: PreparedRole) -> list[Snag]:
    """What the bodies of a role do to its character; a layer of the face mends nothing of it: that is done in takes, or by touching up."""
    character, performed = prepared.snapshot.character, prepared.graph.performed
    if prepared.graph.head is None or character is None or character.skeleton is None or performed is None:
        return []
    rig, made = character.skeleton, performed.result(prepared.cache)
    motion = made.motion(rig)
    shown = Shown(rig, turns_of_local(rig, motion.local), motion.local, motion.root, made.root_joint, ())
    rate, frames = float(motion.rate), motion.frames
    evidence = BodyEvidence(motion, 0.0, rate, frames, contacts_of(motion), JoinSettings(), shown)
    return [replace(s, steps=()) for s in find_body_snags(evidence, BODY_KINDS)]


def _of_props(prepared: PreparedRole) -> list[Snag]:
    """Where hands of the role do not reach what they are to hold; stands, holds and clips are where that is put right."""
    if prepared.graph.props is None:
        return []
    held, shot = prepared.graph.props.result(prepared.cache), prepared.snapshot.documents.shot.body
    out = []
    for name, carried in held.props.items():
        for key, far in carried.short.items():
            hold = shot.props[name].holds[key]
            if hold.role != prepared.snapshot.key or not far > SHORT:
                continue
            words = f"The {hold.side.lower()} hand stays {far * 100:.0f} cm away from {shot.props[name].name} that it is to hold."
            last = min(hold.last, shot.frames - 1)
            bad = severity(far, SHORT, FAR)
            out.append(
                Snag(OFF_PROP, f"hand{hold.side}", (name,), hold.first, last, bad, far * 100, SHORT * 100, "cm", words)
            )
    return out


def _mended(prepared: PreparedRole, chosen: Sequence[Snag]) -> Channels:
    steps = joined(chosen)
    if not steps:
        raise InputError("there is no mend for this", hint="Dismiss it, or put it right by hand")
    stack = parse_stack({"dynafaceStack": 1, "steps": list(steps)})
    return evaluate(prepared.graph.tidied.result(prepared.cache), stack)


def _strokes(prepared: PreparedRole, chosen: Sequence[Snag]) -> dict[str, list[tuple[int, Floats]]]:
    """Channel -> (first frame, (frames,) how it shall be) of each stretch that the mends move."""
    now, after = prepared.graph.tidied.result(prepared.cache), _mended(prepared, chosen)
    moved = np.abs(after.values - now.values) > MOVED
    out = {
        name: [(first, after.values[first:stop, column]) for first, stop in runs(moved[:, column])]
        for column, name in enumerate(now.names)
        if moved[:, column].any()
    }
    if not out:
        raise InputError("the mend changes nothing here", hint="Dismiss the snag, or put it right by hand")
    return out
