"""Evaluating a role of a shot as far as a page asks."""

from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass, replace
from functools import cached_property
from typing import Any, cast

import numpy as np

from dynaface.core.cast.character import Character
from dynaface.core.cast.rig_curves import rig_curves
from dynaface.core.cast.sheet import CastSheet
from dynaface.core.clock.rates import format_rate
from dynaface.core.curves.channels import Channels
from dynaface.core.documents.model.layer import LayerBody, counting
from dynaface.core.documents.model.shot import Role
from dynaface.core.evaluate.bodies import PlacedSource, bodies_of_role, body_of_role, head_carried
from dynaface.core.evaluate.cache import Cache
from dynaface.core.evaluate.node import Node, constant
from dynaface.core.evaluate.part import RoleLayers, changed_part
from dynaface.core.evaluate.props import Holding, PropFound, props_of_shot, with_props
from dynaface.core.evaluate.shot import NOBODY, OnRig, RoleGraph, lanes, role_graph, whole_turns
from dynaface.core.evaluate.take import even_out, take_graph
from dynaface.core.head.head_carried import HeadCarried
from dynaface.core.layers.around import Around
from dynaface.core.layers.layer import Layer, apply_layer, stepped
from dynaface.core.layers.profile import BUILT_IN
from dynaface.core.perform.held_props import HeldProps, Standing
from dynaface.core.perform.join import RetargetedBody
from dynaface.core.perform.perform import Performance
from dynaface.core.records.records import Document, Source
from dynaface.core.shot.placement import Placement
from dynaface.services.pieces import Piece, gather_pieces, patch_pieces
from dynaface.services.shot.clips import ClipFound
from dynaface.services.shot.snapshot import RoleSnapshot, ShotWish, no_character, role_snapshot
from dynaface.services.shot.surroundings import Other, eyes_of, surroundings, words_of_role
from dynaface.services.shot.take_bodies import placed_source
from dynaface.services.work import Work

NO_PROPS: Node[HeldProps] = constant("no props", HeldProps({}, {}))
NOT_CARRIED: Node[HeadCarried | None] = constant("no body carries the head", None)


@dataclass(frozen=True)
class PreparedRole:
    """A role with its graph."""

    snapshot: RoleSnapshot
    cache: Cache

    @cached_property
    def takes(self) -> dict[str, Node[Channels]]:
        """clip -> what its take gives: tidied, or as the clip is held to."""
        found: dict[str, Node[Channels]] = {}
        alike: dict[tuple[str, str, bool], Node[Channels]] = {}
        for name, clip in self.snapshot.documents.clips.items():
            if clip.curves is None or clip.take is None or clip.curves.id not in self.snapshot.recordings:
                continue
            of = clip.take.id, clip.curves.id, bool(clip.clip.body.frozen)
            if of not in alike:
                alike[of] = self._take(clip)
            found[name] = alike[of]
        return found

    def _raw(self, clip: ClipFound) -> Node[Channels]:
        assert clip.curves is not None
        assert clip.take is not None
        recording = constant(f"source {clip.curves.id}", self.snapshot.recordings[clip.curves.id])
        return even_out(recording, clip.take.body.tidy.stack[0])

    def _take(self, clip: ClipFound) -> Node[Channels]:
        assert clip.take is not None
        raw, steps = self._raw(clip), clip.take.body.tidy.stack[1:]
        if clip.clip.body.frozen:
            return raw
        rate = float(raw.result(self.cache).rate)
        return take_graph(raw, rate, steps, clip.take.body.by_hand).tidied

    @property
    def heard(self) -> list[Document[LayerBody]]:
        """The layers on the performance that count, bottom up."""
        return _counting([n for n in self.snapshot.layers if n.body.character is None])

    @property
    def touching(self) -> list[Document[LayerBody]]:
        """The touch-up layers on the role's character that count, bottom up."""
        played = self.snapshot.played_by
        return _counting([n for n in self.snapshot.layers if n.body.character and n.body.character == played])

    def _placed(self, role: Role) -> list[tuple[Placement, Node[Channels]]]:
        return [
            (p.placement, self.takes[p.clip])
            for _, p in sorted(role.placements.items())
            if p.clip in self.takes and not p.mute and p.shows != "body"
        ]

    @cached_property
    def bodies(self) -> list[PlacedSource]:
        """The placements that show a body, with it."""
        return self._bodies(self.snapshot.key)

    def _bodies(self, role: str) -> list[PlacedSource]:
        out = []
        moving = self.snapshot.bodies.get(role, {})
        for _, entry in sorted(self.snapshot.documents.shot.body.roles[role].placements.items()):
            clip = self.snapshot.documents.clips.get(entry.clip)
            found = moving.get(clip.take.id) if clip and clip.take else None
            if clip is not None and found is not None and entry.shows != "face" and not entry.mute:
                known = clip.curves is not None and clip.curves.id in self.snapshot.recordings
                out.append(placed_source(entry, found, self._raw(clip).result(self.cache) if known else None))
        return out

    @cached_property
    def around(self) -> Node[Around]:
        """What the makers of the role see."""
        found, role = self.snapshot.documents, self.snapshot.role
        shot = found.shot.body
        others = {
            key: Other(shot.roles[key], eyes_of(character), lanes(self._placed(shot.roles[key]), shot.fps, shot.frames),
                       self._carried(self._bodies(key), self.snapshot.other_rigs[key], character))
            for key, character in self.snapshot.others.items()
        }  # fmt: skip
        words = words_of_role(found, self.snapshot.key)
        profiles = found.profiles.body.by_name if found.profiles else BUILT_IN
        carried = self._carried(self.bodies, self.snapshot.rig, self.snapshot.character)
        props = self._props_on_bodies() if any(a.lies == "prop" for a in shot.aims.values()) else NO_PROPS
        return surroundings(shot, role, eyes_of(self.snapshot.character), carried, others, words, profiles, props)

    def _carried(self, placed: Sequence[PlacedSource], rig: Source | None, character: Character | None) -> Node[HeadCarried | None]:  # fmt: skip
        """How the bodies of a role carry its head."""
        shot = self.snapshot.documents.shot.body
        if rig is None or character is None or not placed:
            return NOT_CARRIED
        node = constant(f"character {rig.id}", character)
        body = bodies_of_role(placed, node, shot.fps, shot.frames)
        return cast("Node[HeadCarried | None]", head_carried(body, node, eyes_of(character)))

    @cached_property
    def graph(self) -> RoleGraph:
        """The nodes of the role."""
        return self._with_props(self.free)

    @cached_property
    def free(self) -> RoleGraph:
        """The nodes of the role with hands that hold nothing."""
        return self._graph({})

    def _with_props(self, graph: RoleGraph) -> RoleGraph:
        """The graph in a shot with props, which the hands of its roles hold; as it is in one without."""
        if not self.snapshot.props:
            return graph
        if self.snapshot.before and [n.body for n in self.stored.touching] == [n.body for n in self.touching]:
            # While a layer of the face is dragged, hands and props stay as what is stored has them.
            before = self.stored.graph.props
            assert before is not None
            return with_props(graph, self.snapshot.key, before, self.character)
        props = self._held(lambda one, _: one.free.performed)
        return with_props(graph, self.snapshot.key, props, self.character)

    def _held(
        self, moved: Callable[["PreparedRole", Node[Character]], Node[Performance] | Node[RetargetedBody] | None]
    ) -> Node[HeldProps]:
        """Where the props of the shot go; moved: how each role that holds any moves with free hands."""
        shot = self.snapshot.documents.shot.body
        holding = {
            role: Holding(node, character, Standing(shot.roles[role].at, shot.roles[role].turn))
            for role in shot.holding
            if (one := self._holders.get(role)) is not None
            and (character := one.character) is not None
            and (node := moved(one, character)) is not None
        }
        props = {
            key: PropFound(shot.props[key].placed, source.media, prop)
            for key, (source, prop) in self.snapshot.props.items()
        }
        return props_of_shot(props, holding, shot.frames, shot.fps)

    @cached_property
    def _holders(self) -> dict[str, "PreparedRole"]:
        """The roles that hold props, each of which sees the others as this one does."""
        own = self.snapshot
        everyone = {**own.holders, own.key: replace(own, holders={})}
        out = {own.key: self}
        for role, snapshot in own.holders.items():
            others = {r: s for r, s in everyone.items() if r != role}
            out[role] = PreparedRole(replace(snapshot, props=own.props, holders=others), self.cache)
        return out

    def _props_on_bodies(self) -> Node[HeldProps]:
        """Where props go as bodies alone carry them: what eyes look at must not depend on how the look turns the head."""
        shot = self.snapshot.documents.shot.body
        return self._held(lambda one, character: body_of_role(one.bodies, character, shot.fps, shot.frames))

    @property
    def character(self) -> Node[Character] | None:
        """The character of the role."""
        rig = self.snapshot.rig
        return constant(f"character {rig.id}", self.snapshot.character) if rig and self.snapshot.character else None

    def tidied_with(self, given: Mapping[str, Layer]) -> Channels:
        """The role's channels with some layers, by id, as they are given."""
        return self._graph(given).tidied.result(self.cache)

    def rig_with(self, given: Mapping[str, Layer], names: Sequence[str]) -> Channels:
        """Channels of the rig before limits, with some touch-up layers, by id, as they are given; raises InputError without a character."""
        out = self.rig_raw(names)
        for layer in self.layers(given).on_rig.touchups:
            out = apply_layer(out, layer)
        return out

    def rig_raw(self, names: Sequence[str]) -> Channels:
        """Channels of the rig before limits and touch-up layers; raises InputError without a character."""
        graph, character = self.graph, self.character
        node = graph.free or graph.cast
        if node is None or graph.body is None or character is None:
            raise no_character()
        made = whole_turns(node, graph.body, character, names).result(self.cache)
        return rig_curves(made, names, self.snapshot.documents.shot.body.fps)

    def _graph(self, given: Mapping[str, Layer]) -> RoleGraph:
        shot, role = self.snapshot.documents.shot.body, self.snapshot.role
        placed = self._placed(role)
        capture = {region: w.weight for region, w in role.capture.items()}
        layers = self.layers(given)
        # Aims and words are gathered only for makers that look at them.
        around = self.around if any(n.needs for n in layers.face) else NOBODY
        return role_graph(
            placed,
            shot.fps,
            shot.frames,
            capture,
            layers.face,
            self.character,
            self.sheet,
            shot.begins,
            around,
            layers.on_rig,
        )

    @cached_property
    def stored(self) -> "PreparedRole":
        """The role as it is stored, where only layers are wished otherwise."""
        held = self.snapshot
        return PreparedRole(replace(held, documents=replace(held.documents, layers=held.before), before=()), self.cache)

    def layers(self, given: Mapping[str, Layer] | None = None) -> RoleLayers:
        """The layers that count as they act; some of them, by id, as they are given."""

        def acting(documents: Sequence[Document[LayerBody]]) -> list[Layer]:
            counted = [(given or {}).get(n.id, n.body.layer) for n in documents]
            return [stepped(n) if self.snapshot.stepped else n for n in counted]

        role = self.snapshot.role
        on_rig = OnRig(acting(self.touching), self.snapshot.shown, self.bodies, role.head_weight.weight, role.lean, role.look)  # fmt: skip
        return RoleLayers(acting(self.heard), on_rig)

    @property
    def sheet(self) -> CastSheet:
        """The cast sheet of the role."""
        cast = self.snapshot.cast
        return cast.body.sheet if cast else CastSheet()

    @property
    def performance(self) -> Performance:
        """The role on its character; raises InputError where it has none."""
        if self.graph.performed is None:
            raise no_character()
        return self.graph.performed.result(self.cache)


def _counting(layers: Sequence[Document[LayerBody]]) -> list[Document[LayerBody]]:
    counted = counting(n.body for n in layers)
    return [n for n in layers if any(n.body is c for c in counted)]


def _patched(prepared: PreparedRole, pieces: Sequence[Piece]) -> tuple[dict[str, Any], dict[str, np.ndarray]] | None:
    """The pieces by what changes of those that the asker holds, where only a stretch of the role changes; None elsewhere."""
    if not prepared.snapshot.before or not all(p.have for p in pieces):
        return None
    stored, character = prepared.stored, prepared.snapshot.character
    if any(
        [n.id for n in getattr(stored, kind)] != [n.id for n in getattr(prepared, kind)]
        for kind in ("heard", "touching")
    ):
        return None
    before, after = stored.layers(), prepared.layers()
    part = changed_part(stored.graph, before, after, character, prepared.sheet, prepared.cache)
    return None if part is None else patch_pieces(prepared.cache, stored.graph, prepared.graph, part, pieces)


def prepare_role(work: Work, shot: str, role: str, wish: ShotWish | None = None) -> PreparedRole:
    """Reads a role for evaluating."""
    return PreparedRole(role_snapshot(work, shot, role, wish), work.cache)


def evaluate_role(work: Work, shot: str, role: str, pieces: Sequence[Piece], wish: ShotWish | None = None
                  ) -> tuple[dict[str, Any], dict[str, np.ndarray]]:  # fmt: skip
    """(head, arrays) as `gather_pieces` makes them: "raw" is what the clips give, "tidied" the result with all layers. The head says of
    each clip what its take gives now (`takes`: equal for equal content), so that a placement can tell that it has changed.
    """
    prepared = prepare_role(work, shot, role, wish)
    body = prepared.snapshot.documents.shot.body
    patched = _patched(prepared, pieces)
    found, arrays = patched or gather_pieces(prepared.cache, prepared.graph, pieces)
    # What is patched has the channels of what is stored; to ask for all of it would work it out.
    known = prepared.stored if patched else prepared
    channels = known.graph.tidied.result(prepared.cache)
    head = {
        "frames": body.frames,
        "rate": format_rate(body.fps),
        "start": 0.0,
        "timecode": body.timecode,
        "timecodeRate": format_rate(body.fps) if body.timecode else "",
        "channels": list(channels.names),
        "takes": {clip: node.key for clip, node in prepared.takes.items()},
        "kept": [],
        "crossings": [],
        **found,
    }
    return head, arrays
