"""Handovers, returns and jobs."""

from flask import Response, request

from dynaface.core.handover.file_name import WORDS
from dynaface.formats.catalogue import HANDOVERS
from dynaface.services.handover.list_handovers import handover_archive, handover_file, list_handovers
from dynaface.services.handover.presets import own_presets
from dynaface.services.handover.request_handover import (
    request_handover,
    request_handovers,
    request_role_handover,
)
from dynaface.services.jobs.follow_jobs import cancel_job, list_jobs
from dynaface.services.returns.bring_back import request_return
from dynaface.web.answers import as_file, as_json
from dynaface.web.models import (
    HandoverFormsOut,
    HandoversAsked,
    HandoverSettingsIn,
    HandoversOut,
    JobOut,
    JobsOut,
    Returned,
)
from dynaface.web.models_documents import PresetsDocument
from dynaface.web.models_shot import RoleHandoverIn
from dynaface.web.spec import checked, routes, work


@routes.post("/takes/<take>/handovers")
@checked(takes=HandoverSettingsIn, gives=JobOut)
def new_handover(take: str) -> Response:
    """Queues a handover of a take."""
    given: HandoverSettingsIn = request.context.json  # type: ignore[attr-defined]
    return as_json(request_handover(work(), take, given.model_dump()))


@routes.post("/shots/<shot>/handovers")
@checked(takes=RoleHandoverIn, gives=JobOut)
def new_role_handover(shot: str) -> Response:
    """Queues a handover of a role of a shot, or of all its roles that have a character."""
    given: RoleHandoverIn = request.context.json  # type: ignore[attr-defined]
    return as_json(request_role_handover(work(), shot, given.role, given.settings.model_dump()))


@routes.post("/productions/<production>/handovers")
@checked(takes=HandoversAsked, gives=JobOut)
def new_handovers(production: str) -> Response:
    """Queues the handover of several takes and shots as one job."""
    given: HandoversAsked = request.context.json  # type: ignore[attr-defined]
    return as_json(request_handovers(work(), production, given.of, given.settings.model_dump()))


@routes.post("/productions/<production>/returns")
@checked(takes=Returned, gives=JobOut)
def new_return(production: str) -> Response:
    """Queues the making of layers of what is different in files that come back."""
    given: Returned = request.context.json  # type: ignore[attr-defined]
    files = [f.model_dump() for f in given.files]
    return as_json(request_return(work(), production, files, given.onto, given.as_face))


@routes.get("/handover-forms")
@checked(gives=HandoverFormsOut)
def handover_forms() -> Response:
    """The forms in which work can be handed over, with their settings, and the words of a pattern of file names."""
    return as_json({"forms": [f.describe() for f in HANDOVERS.values()], "words": list(WORDS)})


@routes.get("/productions/<production>/handovers")
@checked(gives=HandoversOut)
def handovers(production: str) -> Response:
    """All handovers, newest first."""
    return as_json(list_handovers(work(), production))


@routes.get("/handovers/<handover>/files/<int:number>")
@checked()
def handover_download(handover: str, number: int) -> Response:
    """One file of a handover."""
    return as_file(*handover_file(work(), handover, number))


@routes.post("/productions/<production>/handover-presets")
@checked(gives=PresetsDocument)
def handover_presets(production: str) -> Response:
    """The production's presets of handovers."""
    return as_json(own_presets(work(), production))


@routes.get("/handovers/<handover>/archive")
@checked()
def handover_zip(handover: str) -> Response:
    """All files of a handover in a ZIP."""
    return as_file(*handover_archive(work(), handover))


@routes.get("/productions/<production>/jobs")
@checked(gives=JobsOut)
def jobs(production: str) -> Response:
    """The newest jobs."""
    return as_json(list_jobs(work(), production))


@routes.post("/jobs/<job>/cancel")
@checked(gives=JobOut)
def stop_job(job: str) -> Response:
    """Asks a job to stop."""
    return as_json(cancel_job(work(), job))
