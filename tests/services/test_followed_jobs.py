"""Jobs as those who asked for them follow them: listed, cancelled, and by nobody else."""

from dataclasses import replace

import pytest

from dynaface.core.errors import InputError, NotFoundError
from dynaface.jobs.run_job import run_job
from dynaface.services.jobs.follow_jobs import cancel_job, list_jobs
from dynaface.services.jobs.request_jobs import queue_job


@pytest.fixture
def deferred(mara, production):
    """(work that keeps what it queues, ids queued)."""
    sent = []
    return replace(mara, defer=sent.append), sent


def state_of(work, job):
    with work.store.unit() as unit:
        return unit.jobs.get(job)


def test_a_job_is_in_the_database_before_a_worker_hears_of_it(deferred, production):
    work, _ = deferred
    seen = []
    asking = replace(work, defer=lambda job: seen.append(state_of(work, job).state))
    queue_job(asking, production, "solve", "Solve 4A / 1", {"take": "t"})
    assert seen == ["queued"]


def test_all_members_see_a_productions_jobs(deferred, ivo, stranger, production):
    work, sent = deferred
    job = queue_job(work, production, "solve", "Solve 4A / 1", {"take": "t"})
    assert sent == [job.id]
    assert [j.label for j in list_jobs(ivo, production)] == ["Solve 4A / 1"]
    with pytest.raises(NotFoundError):
        list_jobs(stranger, production)


def test_a_job_that_has_not_begun_is_cancelled_at_once(deferred, production):
    work, _ = deferred
    job = queue_job(work, production, "solve", "Solve", {"take": "t"}).id
    assert cancel_job(work, job).state == "cancelled"
    run_job(work, job)  # a worker that hears of it late
    assert state_of(work, job).state == "cancelled"


def test_a_job_that_runs_is_asked_to_stop(deferred, ivo, production):
    work, _ = deferred
    job = queue_job(work, production, "solve", "Solve", {"take": "t"}).id
    with work.store.unit() as unit:
        unit.jobs.begin(job)
    found = cancel_job(ivo, job)
    assert (found.state, found.cancelling) == ("running", True)


@pytest.mark.parametrize("state", ["done", "failed", "cancelled"])
def test_a_job_that_is_over_cannot_be_cancelled(deferred, production, state):
    work, _ = deferred
    job = queue_job(work, production, "solve", "Solve", {"take": "t"}).id
    with work.store.unit() as unit:
        unit.jobs.change(job, state=state)
    with pytest.raises(InputError, match=f"is {state} already"):
        cancel_job(work, job)


def test_nobody_else_cancels_a_job_or_hears_that_there_is_one(deferred, stranger, production):
    work, _ = deferred
    job = queue_job(work, production, "solve", "Solve", {"take": "t"}).id
    for wrong in (job, "no id", "00000000-0000-0000-0000-000000000000"):
        with pytest.raises(NotFoundError):
            cancel_job(stranger, wrong)
    assert state_of(work, job).state == "queued"


def test_a_job_of_no_known_kind_says_so_and_is_over(deferred, production):
    work, _ = deferred
    job = queue_job(work, production, "juggle", "Juggle", {}).id
    run_job(work, job)
    found = state_of(work, job)
    assert found.state == "failed"
    assert found.message
