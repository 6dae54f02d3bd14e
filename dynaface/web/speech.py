"""Words of sounds: found, leading, and a face made of them."""

from flask import Response, request

from dynaface.services.speech.find_words import request_words
from dynaface.services.speech.give_face import request_face
from dynaface.services.speech.lead_words import Leading, lead_capture, lead_words
from dynaface.web.answers import as_json
from dynaface.web.models import JobOut
from dynaface.web.models_documents import LayerDocument, ShotDocument
from dynaface.web.models_shot import LeadAsked, Said, WordsLead
from dynaface.web.spec import checked, routes, work


@routes.post("/takes/<take>/words")
@checked(takes=Said, gives=JobOut)
def words(take: str) -> Response:
    """Queues looking for the words of a take's sound."""
    given: Said = request.context.json  # type: ignore[attr-defined]
    return as_json(request_words(work(), take, given.text, given.language))


@routes.post("/takes/<take>/faces")
@checked(takes=Said, gives=JobOut)
def face(take: str) -> Response:
    """Queues a face for a take that has only sound; the job's result names the shot."""
    given: Said = request.context.json  # type: ignore[attr-defined]
    return as_json(request_face(work(), take, given.text, given.language))


@routes.post("/shots/<shot>/leads")
@checked(takes=WordsLead, gives=ShotDocument)
def words_lead(shot: str) -> Response:
    """The capture counts less under what a role says."""
    given: WordsLead = request.context.json  # type: ignore[attr-defined]
    return as_json(lead_words(work(), shot, given.version, given.role, given.regions, _leading(given)))


@routes.post("/layers/<layer>/leads")
@checked(takes=LeadAsked, gives=LayerDocument)
def capture_leads(layer: str) -> Response:
    """A layer counts less under what its role says."""
    given: LeadAsked = request.context.json  # type: ignore[attr-defined]
    return as_json(lead_capture(work(), layer, given.version, _leading(given)))


def _leading(given: LeadAsked) -> Leading:
    within = (given.within[0], given.within[1]) if given.within else None
    return Leading(given.low, given.before, given.after, given.by, within)
