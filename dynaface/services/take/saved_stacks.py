"""Tidy stacks that are kept by name in a production and run over many takes."""

from collections.abc import Sequence
from typing import Any

from dynaface.core.documents.model.record import parse
from dynaface.core.documents.model.stack import StackBody
from dynaface.core.documents.model.take import TakeBody
from dynaface.core.documents.model.tidy import StepEntry
from dynaface.core.errors import DynafaceError, InputError
from dynaface.core.records.records import Document
from dynaface.services.edit_document import edit_document
from dynaface.services.work import Work, add_document, allow, document_for

MAX_TAKES = 500


def list_stacks(work: Work, production: str) -> list[dict[str, Any]]:
    """All saved stacks that are not archived."""
    with work.store.unit() as unit:
        allow(unit, production, work.person)
        found = unit.documents.of_kind(production, StackBody)
    return [{"id": s.id, "version": s.version, "name": s.body.name, "steps": len(s.body.tidy.steps)}
            for s in found if not s.body.archived]  # fmt: skip


def save_stack(work: Work, take: str, name: str) -> Document[StackBody]:
    """Keeps a take's stack under a name; of steps that have places, those without frames: they would fit no other take."""
    with work.store.unit() as unit:
        found = document_for(work, unit, take, TakeBody)
        kept = {k: s.plain() for k, s in found.body.tidy.steps.items() if not _bound(s)}
        body = parse(StackBody, {"name": name.strip(), "tidy": {"steps": kept}}, "the stack")
        if any(
            s.body.name == body.name and not s.body.archived
            for s in unit.documents.of_kind(found.production, StackBody)
        ):
            raise InputError(f"there is a stack named {body.name!r} already", hint="Choose another name")
        return add_document(unit, found.production, body)


def _bound(step: StepEntry) -> bool:
    """Whether a step speaks of frames of one take."""
    given = step.given
    places = given.get("places", [])
    return any(p.get("first") is not None or p.get("last") is not None for p in places) or bool(given.get("frames"))


def run_stack(work: Work, stack: str, takes: Sequence[str]) -> dict[str, Any]:
    """Gives takes this stack in place of their own; each is a change of its own. What fails is named, the rest goes on."""
    if not takes or len(takes) > MAX_TAKES:
        raise InputError(f"a stack can be run over 1 to {MAX_TAKES} takes at once")
    with work.store.unit() as unit:
        saved = document_for(work, unit, stack, StackBody)
    done: list[str] = []
    failed: list[dict[str, str]] = []
    for take in takes:
        try:
            with work.store.unit() as unit:
                found = document_for(work, unit, take, TakeBody)
            if found.production != saved.production:
                raise InputError("this take belongs to another production")
            change = {"path": "tidy", "value": saved.body.tidy.plain()}
            edit_document(work, take, found.version, f"stack: {saved.body.name}"[:120], [change])
            done.append(take)
        except DynafaceError as error:
            failed.append({"take": take, "why": str(error)})
    return {"done": done, "failed": failed}
