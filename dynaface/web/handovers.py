"""Handovers and jobs."""

from flask import Response, request

from dynaface.services.handover.deliver_role import request_role_handover
from dynaface.services.handover.deliver_take import handover_file, list_handovers, request_handover
from dynaface.services.jobs.follow_jobs import cancel_job, list_jobs
from dynaface.web.answers import as_file, as_json
from dynaface.web.models import HandoverSettingsIn, HandoversOut, JobOut, JobsOut
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
    """Queues a handover of a role of a shot."""
    given: RoleHandoverIn = request.context.json  # type: ignore[attr-defined]
    return as_json(request_role_handover(work(), shot, given.role, given.settings.model_dump()))


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
