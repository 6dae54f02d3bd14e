"""Long work on footage: shared by workers, taken up again after one is lost, done once; tacks in every later solve."""

import time
from dataclasses import asdict, replace
from datetime import timedelta

import numpy as np
import pytest
from sqlalchemy import text
from sqlalchemy.exc import OperationalError

from dynaface.assets import ASSETS
from dynaface.core.errors import InputError, NotFoundError
from dynaface.core.shapes.standard import SHAPES
from dynaface.formats.card_file import read_card
from dynaface.formats.entries.curve_table import write_table
from dynaface.formats.head_file import general_head
from dynaface.jobs import run_job as run_job_module
from dynaface.jobs.run_job import HANDLERS, TRIES, recover_jobs, run_job
from dynaface.services.edit_document import edit_document
from dynaface.services.footage import share_work
from dynaface.services.footage.capture_head import fetch_head
from dynaface.services.footage.measure_footage import METHOD
from dynaface.services.footage.performer_cards import copy_card, list_cards, load_card, store_card
from dynaface.services.footage.share_work import Shared, gather, help_with
from dynaface.services.footage.solve_take import about_solve, fetch_camera, list_solves, store_solve
from dynaface.services.jobs.follow_jobs import list_jobs
from dynaface.services.jobs.request_jobs import request_solve
from dynaface.services.take.import_take import import_take
from dynaface.services.take.open_take import open_take
from dynaface.services.take.snapshot import Wish
from dynaface.store.repositories.jobs import Jobs
from tests.conftest import stored
from tests.makers import channels, film
from tests.services.evaluated import evaluated


@pytest.fixture
def queue():
    """Ids that were put in the queue; no worker takes them."""
    return []


@pytest.fixture
def quiet(mara, queue):
    return replace(mara, defer=queue.append)


@pytest.fixture
def take(quiet, production, monkeypatch):
    """A take of 40 frames in stretches of 16."""
    monkeypatch.setattr(share_work, "CELL", 16)
    return import_take(quiet, production, "9A", "Mara Quill", [stored(quiet, film(), "clip.mp4")])


@pytest.fixture
def footage(take):
    return take.body.sources.footage


@pytest.fixture
def job(quiet, take):
    return request_solve(quiet, take.id, None, 0, None)


@pytest.fixture
def card(quiet, production):
    card = read_card((ASSETS / "demo/mara_card.json").read_bytes(), general_head())
    return store_card(quiet, production, card, {"name": "Mara", "performer": "Mara Quill", "day": "2026-11-02"})[0]


def counting(done, broken=None):
    """Makers of a kind "count": bytes that name the span; raises for a broken one."""

    def make(work, shared):
        def one(span, on_frame):
            for frame in range(span[0], span[1] + 1):
                on_frame(frame)
                if frame == broken:
                    raise RuntimeError("the worker is lost")
            done.append(span)
            return f"{span[0]}..{span[1]}".encode()

        return one

    return {"count": make}


def silent(part, words):
    pass


def started(work, job):
    with work.store.unit() as unit:
        unit.jobs.begin(job.id)


def test_work_is_cut_at_even_places_and_given_back_in_order(quiet, footage, job):
    started(quiet, job)
    done = []
    parts = gather(quiet, job, Shared(footage, "count", "a", 5, 39), counting(done), silent)
    assert done == [(5, 15), (16, 31), (32, 39)]
    assert [quiet.media.get(p.media) for p in parts] == [b"5..15", b"16..31", b"32..39"]


def test_what_is_done_is_not_done_again_also_within_a_longer_stretch(quiet, footage, job):
    started(quiet, job)
    done = []
    gather(quiet, job, Shared(footage, "count", "a", 0, 39), counting(done), silent)
    again = gather(quiet, job, Shared(footage, "count", "a", 20, 25), counting(done), silent)
    assert len(done) == 3
    assert [(p.span, p.held, quiet.media.get(p.media)) for p in again] == [((20, 25), (16, 31), b"16..31")]
    # Another card is other work.
    gather(quiet, job, Shared(footage, "count", "b", 20, 25), counting(done), silent)
    assert done[-1] == (20, 25)


def test_after_an_error_only_what_was_under_way_is_lost(quiet, footage, job):
    started(quiet, job)
    done = []
    shared = Shared(footage, "count", "a", 0, 39)
    with pytest.raises(RuntimeError):
        gather(quiet, job, shared, counting(done, broken=20), silent)
    assert done == [(0, 15)]
    gather(quiet, job, shared, counting(done), silent)
    assert done == [(0, 15), (16, 31), (32, 39)]


def test_a_second_worker_takes_the_stretches_that_nobody_is_at(quiet, queue, footage, job):
    started(quiet, job)
    helped, own = [], []
    shared = Shared(footage, "count", "a", 0, 39)
    makers = counting(own)

    def first_then_help(work, given):
        inner = makers["count"](work, given)

        def one(span, on_frame):
            if not own and not helped:
                # While the first worker is at its first stretch, a second gets the job's id from the queue.
                assert queue.count(job.id) >= 2
                with quiet.store.unit() as unit:
                    running = unit.jobs.get(job.id)
                assert running.result["sharing"] == asdict(shared)
                help_with(quiet, running, counting(helped))
            return inner(span, on_frame)

        return one

    parts = gather(quiet, job, shared, {"count": first_then_help}, silent)
    assert helped == [(16, 31), (32, 39)]
    assert own == [(0, 15)]
    assert len(parts) == 3


def test_a_stretch_whose_worker_is_silent_is_taken_over(quiet, footage, job):
    started(quiet, job)
    shared = Shared(footage, "count", "a", 0, 15)
    with quiet.store.unit() as unit:
        assert unit.stretches.claim(footage, shared.what, (0, 15), "lost", 30)
        assert not unit.stretches.claim(footage, shared.what, (0, 15), "other", 30)
        unit.connection.execute(text("UPDATE stretches SET seen = now() - interval '1 minute'"))
    done = []
    gather(quiet, job, shared, counting(done), silent)
    assert done == [(0, 15)]


def test_a_job_that_lost_its_worker_is_queued_again_and_given_up_in_the_end(quiet, queue, production, job):
    def lose():
        started(quiet, job)
        with quiet.store.unit() as unit:
            unit.connection.execute(
                text("UPDATE jobs SET seen = now() - :t WHERE id = :i"), {"t": timedelta(minutes=1), "i": job.id}
            )

    lose()
    queue.clear()
    assert job.id in recover_jobs(quiet)
    assert queue.count(job.id) == 1
    assert list_jobs(quiet, production)[0].state == "queued"
    assert job.id not in recover_jobs(quiet)
    for _ in range(TRIES - 1):
        lose()
        recover_jobs(quiet)
    ended = list_jobs(quiet, production)[0]
    assert ended.state == "failed"
    assert f"lost {TRIES} times" in ended.message


def test_an_attempt_that_was_overtaken_changes_nothing_more(quiet, production, take, monkeypatch):
    """A worker that was silent for long, and thought to be lost, comes back while another has its job."""
    asked = request_solve(quiet, take.id, None, 0, None)
    seen = []

    def slow(work, job, progress):
        with quiet.store.unit() as unit:  # meanwhile: silence, another worker begins it and is done
            unit.connection.execute(
                text("UPDATE jobs SET seen = now() - interval '1 minute' WHERE id = :i"), {"i": job.id}
            )
        recover_jobs(quiet)
        with quiet.store.unit() as unit:
            attempt = unit.jobs.begin(job.id)
            unit.jobs.finish(job.id, attempt, state="done", result={"by": "the other"})
        with work.store.unit() as unit:
            seen.append("wrote")
            unit.sources.add(job.production, "curves", "twice", "", 0, {})
        return {"by": "the first"}

    monkeypatch.setitem(HANDLERS, "solve", slow)
    run_job(quiet, asked.id)
    newest = list_jobs(quiet, production)[0]
    assert (newest.state, newest.result, seen) == ("done", {"by": "the other"}, [])


def test_what_an_attempt_made_before_it_was_lost_is_not_made_again(quiet, production, take, monkeypatch):
    asked = request_solve(quiet, take.id, None, 0, None)

    def real(work, job, progress):
        """The end of a solve, without the solving."""
        with quiet.store.unit() as unit:
            footage = unit.sources.get(take.body.sources.footage)
        about = about_solve(work, "Mara", "head", np.ones((40, 3)))
        solved = store_solve(
            work, take.id, footage, write_table(channels(40)), np.ones((40, 2)), np.zeros((40, 7)), about
        )
        return {"source": solved.id}

    def killed_at_the_end(work, job, progress):
        real(work, job, progress)
        raise OperationalError("COMMIT", {}, ConnectionError("killed"))

    monkeypatch.setitem(HANDLERS, "solve", killed_at_the_end)
    run_job(quiet, asked.id)
    assert list_jobs(quiet, production)[0].state == "running"  # nobody said anything of it any more
    with quiet.store.unit() as unit:
        unit.connection.execute(
            text("UPDATE jobs SET seen = now() - interval '1 minute' WHERE id = :i"), {"i": asked.id}
        )
    monkeypatch.setitem(HANDLERS, "solve", real)
    assert asked.id in recover_jobs(quiet)
    run_job(quiet, asked.id)
    newest = list_jobs(quiet, production)[0]
    assert newest.state == "done", newest.message
    assert [s["source"] for s in list_solves(quiet, take.id)] == [newest.result["source"]]


def test_a_worker_goes_on_saying_that_it_is_alive_after_the_database_was_away(quiet, take, monkeypatch):
    asked = request_solve(quiet, take.id, None, 0, None)
    beats, failing = [], [True]

    def beat(self, job, attempt):
        beats.append(job)
        if failing and failing.pop():
            raise OperationalError("UPDATE", {}, ConnectionError("away"))

    monkeypatch.setattr(run_job_module, "BEAT", 0.01)
    monkeypatch.setattr(Jobs, "beat", beat)

    def waits(work, job, progress):
        until = time.monotonic() + 20
        while len(beats) < 4 and time.monotonic() < until:
            time.sleep(0.01)
        return {}

    monkeypatch.setitem(HANDLERS, "solve", waits)
    run_job(quiet, asked.id)
    assert len(beats) >= 4


def solve(work, production, take, **asked):
    run_job(
        work,
        request_solve(
            work, take.id, asked.get("card"), asked.get("first", 0), asked.get("last"), asked.get("moves", "head")
        ).id,
    )
    newest = list_jobs(work, production)[0]
    assert newest.state == "done", newest.message
    return list_solves(work, take.id)[0]


def jaw_of(work, take):
    head, arrays = evaluated(work, take.id, ["raw"])
    return arrays["raw"][:, head["channels"].index("jawOpen")]


def test_tacks_are_in_the_next_solve_and_nothing_is_measured_again(quiet, production, take, card):
    first = solve(quiet, production, take, card=card.id, first=12, last=27)
    before = jaw_of(quiet, take)
    with quiet.store.unit() as unit:
        measured = dict(unit.stretches.state(take.body.sources.footage, f"measure:{_medium(quiet, card)}:{METHOD}"))
    assert sorted(measured) == [(12, 15), (16, 27)]
    version = open_take(quiet, take.id).take.version
    tack = {"frame": 20, "span": 4, "shape": "jawOpen", "value": 0.9}
    edit_document(quiet, take.id, version, "tack", [{"path": "tacks", "value": {"p1": tack}}])
    second = solve(quiet, production, take, card=card.id, first=12, last=27)
    with quiet.store.unit() as unit:
        assert unit.stretches.state(take.body.sources.footage, f"measure:{_medium(quiet, card)}:{METHOD}") == measured
    after = jaw_of(quiet, take)
    assert after[8] == pytest.approx(0.9, abs=0.03)
    assert np.abs(after - before)[:2].max() < 0.02
    assert (first["tacks"], second["tacks"]) == (0, 1)
    # A later solve of a part counts the clip's frames, too.
    solve(quiet, production, take, card=card.id, first=18, last=27)
    assert jaw_of(quiet, take)[2] == pytest.approx(0.9, abs=0.03)
    # The older solve can be laid beside the chosen one.
    head, arrays = evaluated(quiet, take.id, ["raw"], Wish(curves=first["source"]))
    assert arrays["raw"][8, head["channels"].index("jawOpen")] == pytest.approx(before[8])


def _medium(work, card):
    with work.store.unit() as unit:
        return unit.sources.get(card.body.source).media


def test_tacks_that_make_no_sense_are_refused_and_nothing_changes(quiet, take):
    with pytest.raises(InputError, match="shape is"):
        edit_document(
            quiet,
            take.id,
            take.version,
            "tack",
            [{"path": "tacks", "value": {"a": {"frame": 1, "span": 1, "shape": "x", "value": 1}}}],
        )
    assert open_take(quiet, take.id).take.body.tacks == {}


def test_a_shape_that_the_card_leaves_out_stays_at_nothing(quiet, production, take, card):
    edit_document(quiet, card.id, card.version, "leave out", [{"path": "off/jawOpen", "value": True}])
    assert not load_card(quiet, card.id).solved[SHAPES.index("jawOpen")]
    solve(quiet, production, take, card=card.id, last=8)
    assert not jaw_of(quiet, take).any()
    with pytest.raises(InputError, match="shape is"):
        edit_document(quiet, card.id, card.version + 1, "leave out", [{"path": "off/wobble", "value": True}])


def test_a_head_mount_has_no_head_motion(quiet, production, take, card):
    made = solve(quiet, production, take, card=card.id, moves="neither", last=8)
    assert made["moves"] == "neither"
    assert "headTurn" not in evaluated(quiet, take.id, ["raw"])[0]["channels"]
    with pytest.raises(NotFoundError, match="does not move"):
        fetch_camera(quiet, made["source"])
    made = solve(quiet, production, take, card=card.id, moves="camera", last=8)
    name, table = fetch_camera(quiet, made["source"])
    assert name == "clip_camera.csv"
    assert len(table.decode().splitlines()) == 10
    with pytest.raises(InputError, match="moves"):
        request_solve(quiet, take.id, None, 0, None, "sideways")


def test_a_card_is_copied_to_another_day_once(quiet, stranger, card, production):
    copied = copy_card(quiet, card.id, "2026-11-03")
    assert (copied.body.name, copied.body.day) == ("Mara (2026-11-03)", "2026-11-03")
    assert [c["name"] for c in list_cards(quiet, production)] == ["Mara", "Mara (2026-11-03)"]
    with pytest.raises(InputError, match="already"):
        copy_card(quiet, card.id, "2026-11-03")
    with pytest.raises(NotFoundError):
        copy_card(stranger, card.id, "2026-11-04")


def test_the_capture_head_moves_as_the_solve(quiet, stranger, production, take, card):
    made = solve(quiet, production, take, card=card.id, last=8)
    head, arrays = fetch_head(quiet, made["source"])
    vertices = len(general_head().points)
    assert head["first"] == 0
    assert arrays["points"].shape == (vertices, 3)
    assert arrays["shapes"].shape == (52, vertices, 3)
    assert arrays["poses"].shape == (9, 7)
    assert head["jaw"] == SHAPES.index("jawOpen")
    assert arrays["arc"].shape == (vertices, 3)
    assert np.abs(arrays["arc"]).max() > 0.0005  # metres: a chin's way is no straight line
    assert arrays["triangles"].max() < len(arrays["corners"])
    assert arrays["corners"].max() < vertices
    with pytest.raises(NotFoundError):
        fetch_head(stranger, made["source"])
    with pytest.raises(NotFoundError, match="no solve"):
        fetch_head(quiet, take.body.sources.footage)
