"""A take that is ready to be evaluated: its graph, built from a snapshot."""

from dataclasses import dataclass, replace
from functools import cached_property

from dynaface.core.body.skeleton import Motion
from dynaface.core.cast.character import Character
from dynaface.core.cast.sheet import CastSheet
from dynaface.core.contact.find_feet import FootContacts, Spans
from dynaface.core.curves.channels import Channels
from dynaface.core.documents.model.take import TakeBody
from dynaface.core.errors import InputError
from dynaface.core.evaluate.cache import Cache
from dynaface.core.evaluate.node import Node, constant
from dynaface.core.evaluate.take import TakeGraph, even_out, foot_contacts, hand_touches, take_graph, tidied_body
from dynaface.core.head.neck import head_chain
from dynaface.core.identity import content_key
from dynaface.core.measures.measures import Measures
from dynaface.core.perform.perform import Performance
from dynaface.core.records.records import Document, Source
from dynaface.services.take.snapshot import TakeSnapshot, Wish, take_snapshot
from dynaface.services.work import Work


def moving_key(source: Source, measures: Measures | None) -> str:
    """What a motion is known by: its source, and by what measures it was made as large as its performer."""
    return f"source {source.id}" if measures is None or measures.none else content_key("fitted", source.id, measures)


@dataclass(frozen=True)
class PreparedTake:
    """A take with its graph. What is asked for is worked out once and kept in the cache."""

    snapshot: TakeSnapshot
    cache: Cache

    @cached_property
    def before_contacts(self) -> "PreparedTake | None":
        """The take as it is stored, where nothing but contacts of its body is wished to be otherwise."""
        before = self.snapshot.before
        return PreparedTake(before, self.cache) if before else None

    @property
    def take(self) -> Document[TakeBody]:
        """The take."""
        return self.snapshot.take

    @property
    def sheet(self) -> CastSheet:
        """The cast sheet, an empty one where there is no character, with the contacts that this take lets go."""
        cast = self.snapshot.documents.cast
        sheet = cast.body.sheet if cast else CastSheet()
        gone = {key for key, is_gone in self.take.body.let_go.items() if is_gone}
        return replace(sheet, contacts=replace(sheet.contacts, off=sheet.contacts.off | gone)) if gone else sheet

    @cached_property
    def graph(self) -> TakeGraph:
        """The nodes of the take."""
        held, body = self.snapshot.documents, self.snapshot.take.body
        retiming, *steps = body.tidy.stack
        raw = even_out(constant(f"source {held.sources['curves'].id}", self.snapshot.recording), retiming)
        rate = float(raw.result(self.cache).rate)
        character: Node[Character] | None = None
        if held.rig is not None and self.snapshot.character is not None:
            character = constant(f"character {held.rig.id}", self.snapshot.character)
        motion = None if self.snapshot.body is None else self._body
        hands = self._moving("hands", self.snapshot.hands) if self.snapshot.hands is not None else None
        join, joints = self.snapshot.join, self.snapshot.joints
        return take_graph(raw, rate, steps, body.by_hand, character, self.sheet, motion, join, hands, joints)

    @property
    def _body(self) -> Node[Motion | None]:
        return self._moving("body", self.snapshot.body)

    def _moving(self, kind: str, motion: Motion | None) -> Node[Motion | None]:
        held = self.snapshot.documents
        return constant(moving_key(held.sources[kind], held.measures if kind == "body" else None), motion)

    @property
    def contacts(self) -> tuple[FootContacts, ...]:
        """When the feet of the take's body stand, in frames of the body; there is one."""
        return foot_contacts(self._tidied_body).result(self.cache)

    @property
    def touches(self) -> dict[str, Spans]:
        """When the hands of the take's body touch, in frames of the body; there is one."""
        return hand_touches(self._tidied_body).result(self.cache)

    @property
    def _tidied_body(self) -> Node[Motion | None]:
        return tidied_body(self._body, self.snapshot.join)

    @property
    def tidied_body(self) -> Motion | None:
        """The take's body through the steps of its join; None without one."""
        return self._tidied_body.result(self.cache) if self.snapshot.body is not None else None

    @property
    def body_key(self) -> str:
        """What the tidied body is known by."""
        return self._tidied_body.key

    @property
    def head_joints(self) -> list[str]:
        """The joints that turn the head, the lowest first; [] without a character that has any."""
        rig = self.snapshot.character.skeleton if self.snapshot.character else None
        if rig is None:
            return []
        found = self.graph.frame.result(self.cache) if self.graph.frame else None
        return [rig.names[j] for j in (found.chain if found else head_chain(rig))]

    @property
    def raw(self) -> Channels:
        """The source evened out in time and nothing else."""
        return self.graph.raw.result(self.cache)

    @property
    def stacked(self) -> Channels:
        """The source through its tidy stack, before anything that was done by hand."""
        return self.graph.stacked.result(self.cache)

    @property
    def tidied(self) -> Channels:
        """The source through its tidy stack and what was done by hand."""
        return self.graph.tidied.result(self.cache)

    @property
    def performance(self) -> Performance:
        """The take on its character, with its body where there is one; raises InputError where there is no character."""
        if self.graph.performed is None:
            raise InputError("there is no character", hint="Bring one in at the Cast desk")
        return self.graph.performed.result(self.cache)

    def alone_on(self, other: "PreparedTake") -> "PreparedTake":
        """This take on the character and sheet of another, without a body."""
        theirs = other.snapshot.documents
        documents = replace(self.snapshot.documents, character=theirs.character, rig=theirs.rig, cast=theirs.cast)
        made = replace(self.snapshot, documents=documents, character=other.snapshot.character, body=None)
        return PreparedTake(made, self.cache)


def prepare_take(work: Work, take: str, wish: Wish | None = None) -> PreparedTake:
    """Reads a take for evaluating; raises InputError when it has no curves."""
    return PreparedTake(take_snapshot(work, take, wish), work.cache)
