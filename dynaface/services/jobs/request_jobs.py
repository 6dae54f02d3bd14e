"""Asking for long work on footage: making it ready, a performer card, a solve. The worker does it later."""

from typing import Any

from dynaface.core import checks
from dynaface.core.documents.model.card import CardBody
from dynaface.core.documents.model.take import TakeBody
from dynaface.core.errors import InputError
from dynaface.core.records.records import Job
from dynaface.core.shapes.standard import SHAPES
from dynaface.core.solve.clip import HEAD, MOVES
from dynaface.pipelines.solve_footage import parse_samples
from dynaface.services.take.take_sources import footage_of
from dynaface.services.work import Work, document_for


def _ask(work: Work, take: str, kind: str, word: str, request: dict[str, Any]) -> Job:
    found, _ = footage_of(work, take)
    return queue_job(work, found.production, kind, f"{word} {found.body.slate}", {"take": take, **request})


def queue_job(work: Work, production: str, kind: str, label: str, request: dict[str, Any]) -> Job:
    """Queues a job; the caller has checked that the person may."""
    with work.store.unit() as unit:
        job = unit.jobs.add(production, work.person, kind, label, request)
    work.defer(job.id)
    return job


def request_preparation(work: Work, take: str) -> Job:
    """Queues making a take's footage ready: proxy, sound, landmarks."""
    return _ask(work, take, "footage", "Look through", {})


def request_proposal(work: Work, take: str) -> Job:
    """Queues looking for the neutral face and the samples of a performer card; they are the job's result."""
    return _ask(work, take, "proposal", "Samples of", {})


def request_card(work: Work, take: str, given: dict[str, Any]) -> Job:
    """Queues a performer card from a take's footage; raises InputError at once for samples that cannot be."""
    if given.get("neutral") is not None:
        samples = parse_samples({"neutral": list(given["neutral"]), "samples": given.get("samples", {})})
        given = {**given, "samples": dict(samples.samples)}
    for shape, where in given.get("again", {}).items():
        checks.one_of("shape", shape, SHAPES)
        with work.store.unit() as unit:
            if document_for(work, unit, where["take"], TakeBody).body.sources.footage is None:
                raise InputError(f"the take of {shape} again has no footage")
    return _ask(work, take, "card", "Performer card from", given)


def request_solve(
    work: Work,
    take: str,
    card: str | None,
    first: int | None,
    last: int | None,
    moves: str = HEAD,
    neutral: int | None = None,
) -> Job:
    """Queues a solve of a take's footage with a card, or with what the clip itself shows; first, last: frames of the clip, None for both where
    its in and out say it; moves: one of MOVES; neutral: without a card, the frame of the clip that is neutral, None where it is looked for.
    """
    checks.one_of("moves", moves, MOVES)
    if card and neutral is not None:
        raise InputError("a card has a neutral face of its own", hint="Solve without a card, or make another one")
    if card:
        with work.store.unit() as unit:
            found = document_for(work, unit, card, CardBody).body
        if not found.source:
            raise InputError(f"the card {found.name} is not ready yet")
    return _ask(
        work, take, "solve", "Solve", {"card": card, "first": first, "last": last, "moves": moves, "neutral": neutral}
    )
