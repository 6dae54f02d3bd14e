"""Steps that are kept by name in a production and run over many takes: tidy stacks of faces, and steps for bodies."""

from collections.abc import Callable, Sequence
from dataclasses import dataclass
from typing import Any

from dynaface.core.documents.model.body_stack import BodyStackBody
from dynaface.core.documents.model.record import parse
from dynaface.core.documents.model.stack import StackBody
from dynaface.core.documents.model.take import TakeBody
from dynaface.core.documents.model.tidy import StepEntry
from dynaface.core.errors import DynafaceError, InputError
from dynaface.core.records.records import Document
from dynaface.services.edit_document import edit_document
from dynaface.services.take.open_take import open_take
from dynaface.services.take.snapshot import join_of
from dynaface.services.work import Work, add_document, allow, document_for
from dynaface.store.unit import Unit

MAX_TAKES = 500
Saved = StackBody | BodyStackBody


@dataclass(frozen=True)
class StackOf:
    """What is kept. body: of the document; steps: plain, of a saved one; taken: plain, of a take as far as they fit others, as the body has
    them; give: gives a take those of a saved one, under a label.
    """

    body: type[Saved]
    steps: Callable[[Any], int]
    taken: Callable[[Unit, Document[TakeBody]], dict[str, Any]]
    give: Callable[[Work, Document[TakeBody], Any, str], None]


def _of_face(unit: Unit, take: Document[TakeBody]) -> dict[str, Any]:
    return {"steps": {k: s.plain() for k, s in take.body.tidy.steps.items() if not _bound(s)}}


def _bound(step: StepEntry) -> bool:
    """Whether a step speaks of frames of one take."""
    given = step.given
    places = given.get("places", [])
    return any(p.get("first") is not None or p.get("last") is not None for p in places) or bool(given.get("frames"))


def _to_face(work: Work, take: Document[TakeBody], saved: StackBody, label: str) -> None:
    edit_document(work, take.id, take.version, label, [{"path": "tidy", "value": saved.tidy.plain()}])


def _of_body(unit: Unit, take: Document[TakeBody]) -> dict[str, Any]:
    steps = join_of(unit, take).body.tidy
    kept = {k: s.plain() for k, s in steps.items() if s.first is None and s.last is None}
    if not kept:
        raise InputError(
            "no step for the body of this take would fit others",
            hint="Add a step that acts on the whole of it: those of a stretch are left out",
        )
    return kept


def _to_body(work: Work, take: Document[TakeBody], saved: BodyStackBody, label: str) -> None:
    if take.body.sources.body is None:
        raise InputError("this take has no body")
    join = open_take(work, take.id).join
    edit_document(work, join.id, join.version, label, [{"path": "tidy", "value": saved.plain()["tidy"]}])


FACES = StackOf(StackBody, lambda body: len(body.tidy.steps), _of_face, _to_face)
BODIES = StackOf(BodyStackBody, lambda body: len(body.tidy), _of_body, _to_body)


def list_stacks(work: Work, production: str, of: StackOf = FACES) -> list[dict[str, Any]]:
    """All saved stacks that are not archived."""
    with work.store.unit() as unit:
        allow(unit, production, work.person)
        found = unit.documents.of_kind(production, of.body)
    return [{"id": s.id, "version": s.version, "name": s.body.name, "steps": of.steps(s.body)}
            for s in found if not s.body.archived]  # fmt: skip


def save_stack(work: Work, take: str, name: str, of: StackOf = FACES) -> Document[Any]:
    """Keeps a take's stack under a name; of steps that have places, those without frames: they would fit no other take."""
    with work.store.unit() as unit:
        found = document_for(work, unit, take, TakeBody)
        body = parse(of.body, {"name": name.strip(), "tidy": of.taken(unit, found)}, "the stack")
        if any(
            s.body.name == body.name and not s.body.archived for s in unit.documents.of_kind(found.production, of.body)
        ):
            raise InputError(f"there is a stack named {body.name!r} already", hint="Choose another name")
        return add_document(unit, found.production, body)


def run_stack(work: Work, stack: str, takes: Sequence[str], of: StackOf = FACES) -> dict[str, Any]:
    """Gives takes this stack in place of their own; each is a change of its own. What fails is named, the rest goes on."""
    if not takes or len(takes) > MAX_TAKES:
        raise InputError(f"a stack can be run over 1 to {MAX_TAKES} takes at once")
    with work.store.unit() as unit:
        saved = document_for(work, unit, stack, of.body)
    done: list[str] = []
    failed: list[dict[str, str]] = []
    for take in takes:
        try:
            with work.store.unit() as unit:
                found = document_for(work, unit, take, TakeBody)
            if found.production != saved.production:
                raise InputError("this take belongs to another production")
            of.give(work, found, saved.body, f"stack: {saved.body.name}"[:120])
            done.append(take)
        except DynafaceError as error:
            failed.append({"take": take, "why": str(error)})
    return {"done": done, "failed": failed}
