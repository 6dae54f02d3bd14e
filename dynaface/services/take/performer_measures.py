"""Measures of performers: kept with each, typed or taken of a take's body, and used in all their takes."""

from collections.abc import Sequence
from dataclasses import asdict

from dynaface.core.documents.model.measures import MeasuresBody
from dynaface.core.documents.model.record import parse
from dynaface.core.documents.model.take import TakeBody
from dynaface.core.errors import InputError
from dynaface.core.measures.measures import Measures, measure
from dynaface.core.records.records import Document
from dynaface.services.edit_document import change_document
from dynaface.services.load_source import load_motion
from dynaface.services.work import Work, add_document, allow, document_for, source_within
from dynaface.store.unit import Unit

UNKNOWN = Measures()


def list_measures(work: Work, production: str) -> Sequence[Document[MeasuresBody]]:
    """The measures of all performers of a production that have any."""
    with work.store.snapshot() as unit:
        allow(unit, production, work.person)
        return unit.documents.of_kind(production, MeasuresBody)


def measures_of(unit: Unit, production: str, performer: str) -> Measures:
    """What is known of a performer's body."""
    found = unit.documents.by_key(production, MeasuresBody, performer) if performer else None
    return found.body.measures if found else UNKNOWN


def own_measures(work: Work, take: str) -> Document[MeasuresBody]:
    """The measures of a take's performer, begun with none where there are none yet; raises InputError for a take without a performer."""
    with work.store.unit() as unit:
        found = document_for(work, unit, take, TakeBody)
        performer = found.body.performer
        if not performer:
            raise InputError("this take says no performer", hint="Name the performer at the Gather desk")
        body = parse(MeasuresBody, {"performer": performer}, "the measures")
        return add_document(unit, found.production, body, performer)


def measure_from_take(work: Work, take: str) -> Document[MeasuresBody]:
    """The measures of the skeleton on which a take's body was recorded, as those of its performer; raises InputError where there is none, or it
    has neither legs nor arms.
    """
    kept = own_measures(work, take)
    with work.store.unit() as unit:
        found = document_for(work, unit, take, TakeBody)
        if found.body.sources.body is None:
            raise InputError("this take has no body", hint="Bring one in first")
        source = source_within(unit, found.production, found.body.sources.body, "body")
    taken = measure(load_motion(work, source).skeleton)
    if taken.none:
        raise InputError("this body has neither legs nor arms to measure", hint="Type the measures")
    changes = [
        {"path": name, "value": value if value is None else round(value, 3)} for name, value in asdict(taken).items()
    ]
    return change_document(work, kept.id, MeasuresBody, kept.version, f"measure {kept.body.performer}"[:120], changes)
