"""Files that come back: asking for it, and making layers of them in the worker."""

from collections.abc import Mapping, Sequence
from dataclasses import asdict, dataclass
from typing import Any

from dynaface.core.documents.model.record import Body
from dynaface.core.documents.model.shot import ShotBody
from dynaface.core.documents.model.take import TakeBody
from dynaface.core.errors import CancelledError, DynafaceError, InputError
from dynaface.core.records.records import Handover, Job
from dynaface.core.returns.compare import differences
from dynaface.core.returns.put_right import put_right
from dynaface.formats.handover import within
from dynaface.formats.returned import read_returned, returning_form
from dynaface.pipelines.progress import Progress
from dynaface.services.handover.list_handovers import list_handovers
from dynaface.services.jobs.request_jobs import queue_job
from dynaface.services.media.uploaded import uploaded, uploaded_file
from dynaface.services.returns.as_it_is import as_it_is
from dynaface.services.returns.land import Landed, land
from dynaface.services.returns.recognise import HandedOver, figures_of, newest_of_form, rate_of, recognise
from dynaface.services.work import Work, allow, document_for

KIND = "return"
MOST = 40  # files at once


@dataclass(frozen=True)
class GivenFile:
    """A file that was uploaded."""

    media: str
    name: str


def request_return(
    work: Work, production: str, files: Sequence[Mapping[str, str]], onto: str = "", as_face: bool = False
) -> Job:
    """Queues the making of layers of files that come back. onto: the take or shot that is open; as_face: what a character shows otherwise becomes, through its
    cast sheet, a change of the performance. Raises InputError for none, too many, or a file that
    cannot come back.
    """
    with work.store.unit() as unit:
        allow(unit, production, work.person)
    if not 1 <= len(files) <= MOST:
        raise InputError(f"{len(files)} files are brought back", hint=f"Choose 1 to {MOST}")
    given = [GivenFile(f["media"], f["name"]) for f in files]
    for file in given:
        returning_form(file.name)
        uploaded_file(work, production, file.media)
    if onto:
        _of_production(work, onto, production)
    label = f"Bring back {given[0].name}" if len(given) == 1 else f"Bring back {len(given)} files"
    request = {"files": [asdict(f) for f in given], "onto": onto, "as_face": as_face}
    return queue_job(work, production, KIND, label[:120], request)


def _of_production(work: Work, document: str, production: str) -> None:
    with work.store.snapshot() as unit:
        found = document_for(work, unit, document, Body)
    if found.production != production or not isinstance(found.body, TakeBody | ShotBody):
        raise InputError(f"{document} is no take and no shot of this production")


def make_returns(work: Work, job: Job, progress: Progress) -> dict[str, Any]:
    """The work itself, in the worker: the job's result says of each character of each file what is different, and which layer holds it. A file that fails
    does not stop the others.
    """
    handovers = list_handovers(work, job.production)
    files = [GivenFile(**f) for f in job.request["files"]]
    rows: list[dict[str, Any]] = []
    for number, file in enumerate(files):
        tell = within(progress, number, len(files))
        tell(0.05, f"reading {file.name}")
        try:
            rows += _bring(work, job, handovers, file, number, tell)
        except CancelledError:
            raise
        except DynafaceError as error:
            rows.append({"file": file.name, "ok": False, "said": str(error)})
    return {"ok": all(r["ok"] for r in rows), "returns": rows}


def _bring(
    work: Work, job: Job, handovers: Sequence[Handover], file: GivenFile, number: int, tell: Progress
) -> list[dict[str, Any]]:
    onto = job.request["onto"]
    handed = recognise(work, handovers, file.media, file.name)
    if handed is None and onto:
        handed = newest_of_form(work, handovers, file.name, onto) or as_it_is(work, onto, file.name)
    if handed is None:
        raise InputError(f"nothing that was handed over is called like {file.name}", hint="Open the take or shot that it is of, and bring it back there")  # fmt: skip
    edited = read_returned(uploaded(work, job.production, file.media), file.name, rate_of(handed.figures))
    tell(0.4, f"comparing {file.name}")
    rows = []
    for part, (role, own, base) in enumerate(figures_of(handed, edited, file.name)):
        righted = put_right(own, base)
        found = differences(righted, handed.tolerance, handed.ends)
        row = {"file": file.name, "ok": True, "of": handed.file, "said": "", "putRight": list(righted.said),
               "unknown": list(righted.unknown), "absent": list(righted.absent), "layer": "", "face": False, "shot": "", "role": "",
               "changed": _changed(work, handed), "differences": [], "left": []}  # fmt: skip
        if found:
            tell(0.6, f"making a layer of {file.name}")
            key = f"{job.id} {number} {part}"
            landed = land(
                work, Landed(handed, role, righted, job.id, key, file.name, onto, job.request["as_face"]), found
            )
            rows += [{**row, **one} for one in landed]
        else:
            rows.append(row)
    return rows


def _changed(work: Work, handed: HandedOver) -> bool:
    """Whether the take or shot has changed since."""
    with work.store.snapshot() as unit:
        now = {d: unit.documents.get(d) for d in handed.versions}
    return any(found is None or found.version != handed.versions[d] for d, found in now.items())
