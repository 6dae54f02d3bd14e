"""Everything that is compiled when it is first used, used once: no animator waits for it after a fresh start."""

from fractions import Fraction

import numpy as np

from dynaface.assets import ASSETS
from dynaface.core.cast.character import Character
from dynaface.core.cast.sheet import CastSheet
from dynaface.core.curves.channels import Recording
from dynaface.core.curves.held import Held
from dynaface.core.curves.keys import Key
from dynaface.core.curves.reduce import reduce
from dynaface.core.documents.model.tidy import fresh_tidy
from dynaface.core.evaluate.cache import Cache
from dynaface.core.evaluate.node import constant
from dynaface.core.evaluate.take import even_out, take_graph
from dynaface.core.match.match_settings import MatchSettings
from dynaface.core.perform.follow_body import BodyFollower
from dynaface.core.perform.one_frame import one_frame
from dynaface.core.shapes.standard import CHANNELS
from dynaface.formats.entries import bvh
from dynaface.formats.gltf.character import read_character

FRAMES, RATE, BODY_LINES = 90, 60.0, 240


def _body() -> bytes:
    """The first lines of a body take of the demo."""
    lines = (ASSETS / "demo/mara_lamp_body.bvh").read_text().splitlines()
    motion = lines.index("MOTION")
    rows = lines[motion + 3 : motion + 3 + BODY_LINES]
    return "\n".join([*lines[: motion + 1], f"Frames: {len(rows)}", lines[motion + 2], *rows, ""]).encode()


def warm_up() -> None:
    """Takes a short made recording all the way: evened out, tidied, keyed, cast and joined to a body."""
    rng = np.random.default_rng(1)
    values = np.clip(rng.normal(0.3, 0.2, (FRAMES, len(CHANNELS))), 0, 1).astype(np.float32)
    recording = Recording(CHANNELS, np.arange(FRAMES) / RATE, values, Fraction(60), None)
    first, *steps = fresh_tidy().stack
    character: Character = read_character((ASSETS / "characters/odile.glb").read_bytes())
    cache = Cache(100_000_000)
    raw = even_out(constant("recording", recording), first)
    keys = reduce(values[:, 0], RATE).keys
    hand = {"jawOpen": Held("keys", keys), "cheekPuff": Held("offset", (Key(0.0, 0.1), Key(9.0, 0.2)))}
    graph = take_graph(raw, RATE, steps, hand, constant("rig", character), body=constant("body", bvh.read(_body())))
    assert graph.performed is not None
    graph.performed.result(cache)


def warm_up_frames() -> None:
    """One frame of face and body on a character, as feeds show it."""
    character = read_character((ASSETS / "characters/odile.glb").read_bytes())
    assert character.skeleton is not None
    rest = {name: character.skeleton.rest[joint].tolist() for joint, name in enumerate(character.skeleton.names)}
    body = BodyFollower(character.skeleton, character.skeleton, MatchSettings()).frame(rest, (0.0, 0.0, 0.0))
    one_frame(CHANNELS, np.zeros(len(CHANNELS), np.float32), character, CastSheet(), body)
