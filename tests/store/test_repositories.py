"""What the database keeps: blocks of numbers, jobs and their workers, stretches, uploads, people."""

from datetime import timedelta
from uuid import uuid4

import numpy as np
import pytest
from hypothesis import HealthCheck, given, settings
from hypothesis import strategies as st
from sqlalchemy import func, text

from dynaface.core.documents.model.record import parse
from dynaface.core.documents.model.stack import StackBody
from dynaface.jobs.queue import TASK
from dynaface.store.repositories.sources import CHUNK
from dynaface.store.tables.jobs import jobs
from dynaface.store.tables.stretches import stretches


@pytest.fixture
def source(mara, production):
    with mara.store.unit() as unit:
        return unit.sources.add(production, "curves", "a.csv", "0" * 64, 10, {}).id


@pytest.fixture
def job(mara, production):
    with mara.store.unit() as unit:
        return unit.jobs.add(production, mara.person, "solve", "Solve 4A / 1", {"take": "t"}).id


def long_ago(work, table, where):
    """Makes a row look as if its worker had been silent for an hour."""
    with work.store.unit() as unit:
        unit.jobs._db.execute(table.update().where(where).values(seen=func.now() - timedelta(hours=1)))


class TestBlocks:
    @pytest.mark.parametrize("code", ["f4", "f8"])
    @pytest.mark.parametrize("rows", [1, CHUNK - 1, CHUNK, CHUNK + 1, 3 * CHUNK + 7])
    def test_come_back_bit_for_bit_whatever_their_length(self, mara, source, code, rows):
        values = np.random.default_rng(rows).normal(size=(rows, 3)).astype(f"<{code}")
        values[::5] = np.nan
        with mara.store.unit() as unit:
            unit.sources.write_block(source, f"part:{code}", values)
        with mara.store.unit() as unit:
            read = unit.sources.read_block(source, f"part:{code}")
        assert read.dtype == values.dtype
        assert read.tobytes() == values.tobytes()

    @settings(suppress_health_check=[HealthCheck.function_scoped_fixture], max_examples=25)
    @given(values=st.lists(st.floats(width=32, allow_nan=True), min_size=1, max_size=40))
    def test_keep_any_number(self, mara, source, values):
        part = f"{uuid4().hex[:8]}:f4"
        array = np.array(values, "<f4")[:, None]
        with mara.store.unit() as unit:
            unit.sources.write_block(source, part, array)
            assert unit.sources.read_block(source, part).tobytes() == array.tobytes()

    @settings(suppress_health_check=[HealthCheck.function_scoped_fixture], max_examples=25)
    @given(
        sizes=st.lists(st.integers(0, 40), min_size=1, max_size=6), first=st.integers(0, 150), more=st.integers(0, 60)
    )
    def test_come_in_pieces_and_are_read_by_rows(self, mara, source, sizes, first, more):
        part = f"{uuid4().hex[:8]}:f4"
        values = np.arange(sum(sizes) * 2, dtype="<f4").reshape(-1, 2)
        pieces = np.split(values, np.cumsum(sizes)[:-1])
        with pytest.MonkeyPatch.context() as patch, mara.store.unit() as unit:
            patch.setattr("dynaface.store.repositories.sources.CHUNK", 16)
            unit.sources.write_rows(source, part, iter(pieces))
            assert unit.sources.has_rows(source, part) is bool(len(values))
            np.testing.assert_array_equal(unit.sources.read_block(source, part), values)
            read = unit.sources.read_block(source, part, first, first + more)
        np.testing.assert_array_equal(np.zeros((0, 2)) if read is None else read, values[first : first + more + 1])

    def test_that_are_not_there_or_were_dropped_are_none(self, mara, source):
        with mara.store.unit() as unit:
            assert unit.sources.read_block(source, "part:f4") is None
            unit.sources.write_block(source, "part:f4", np.zeros((3, 1)))
            unit.sources.drop_block(source, "part:f4")
            assert unit.sources.read_block(source, "part:f4") is None

    def test_are_gone_with_a_transaction_that_fails(self, mara, source):
        def half():
            with mara.store.unit() as unit:
                unit.sources.write_block(source, "part:f4", np.zeros((3, 1)))
                raise ZeroDivisionError

        with pytest.raises(ZeroDivisionError):
            half()
        with mara.store.unit() as unit:
            assert unit.sources.read_block(source, "part:f4") is None


class TestSources:
    def test_learn_more_about_themselves_without_losing_what_they_knew(self, mara, source):
        with mara.store.unit() as unit:
            unit.sources.note(source, rate="60")
            unit.sources.note(source, frames=10)
            assert unit.sources.get(source).info == {"rate": "60", "frames": 10}
            unit.sources.note(str(uuid4()), frames=1)  # nobody is harmed

    def test_say_whether_bytes_are_still_used(self, mara, source):
        with mara.store.unit() as unit:
            assert unit.sources.uses("0" * 64)
            assert not unit.sources.uses("1" * 64)

    def test_give_solves_of_a_clip_newest_first(self, mara, production):
        clip = str(uuid4())
        made = []
        for name in ("first", "second"):
            with mara.store.unit() as unit:
                info = {"solve": {"footage": clip}}
                made.append(unit.sources.add(production, "curves", name, "", 0, info).id)
        with mara.store.unit() as unit:
            assert [s.id for s, _ in unit.sources.solves_of(clip)] == made[::-1]
            assert unit.sources.solves_of(str(uuid4())) == []

    def test_recipes_are_those_of_the_production_and_the_newest(self, mara, production):
        with mara.store.unit() as unit:
            unit.sources.learn_recipe(production, "a,b", {"rate": "30"})
            unit.sources.learn_recipe(production, "a,b", {"rate": "60"})
            assert unit.sources.recipe_for(production, "a,b") == {"rate": "60"}
            assert unit.sources.recipe_for(production, "a,c") is None
            assert unit.sources.recipe_for(str(uuid4()), "a,b") is None


class TestJobs:
    def test_are_begun_once(self, mara, job):
        with mara.store.unit() as unit:
            assert unit.jobs.begin(job)
            assert not unit.jobs.begin(job)
            assert unit.jobs.get(job).state == "running"

    def test_a_cancelled_one_is_not_begun(self, mara, job):
        with mara.store.unit() as unit:
            unit.jobs.change(job, state="cancelled")
            assert not unit.jobs.begin(job)

    def test_of_a_silent_worker_are_queued_again_and_given_up_in_the_end(self, mara, job):
        for again in (True, True, False):
            with mara.store.unit() as unit:
                assert unit.jobs.begin(job)
            long_ago(mara, jobs, jobs.c.id == job)
            with mara.store.unit() as unit:
                assert (job in unit.jobs.recover(60, 3)) is again
        with mara.store.unit() as unit:
            found = unit.jobs.get(job)
        assert found.state == "failed"
        assert "lost 3 times" in found.message

    def test_of_a_worker_that_was_heard_of_go_on(self, mara, job):
        with mara.store.unit() as unit:
            unit.jobs.begin(job)
        long_ago(mara, jobs, jobs.c.id == job)
        with mara.store.unit() as unit:
            unit.jobs.beat(job, 1)
            assert job not in unit.jobs.recover(60, 3)

    def test_belong_to_their_newest_attempt(self, mara, job):
        with mara.store.unit() as unit:
            assert unit.jobs.begin(job) == 1
        long_ago(mara, jobs, jobs.c.id == job)
        with mara.store.unit() as unit:
            assert job in unit.jobs.recover(60, 3)
            assert unit.jobs.begin(job) == 2
            assert not unit.jobs.hold(job, 1)
            assert not unit.jobs.finish(job, 1, state="done")
            assert unit.jobs.hold(job, 2)
            assert unit.jobs.finish(job, 2, state="done")
            assert not unit.jobs.hold(job, 2)

    def test_that_the_queue_has_lost_are_found(self, mara, job):
        def entry(status, worker=None):
            with mara.store.unit() as unit:
                unit.connection.execute(
                    text("INSERT INTO procrastinate_jobs (queue_name, task_name, args, status, worker_id)"
                         " VALUES ('default', :t, jsonb_build_object('job', CAST(:j AS text)), CAST(:s AS procrastinate_job_status), :w)"),
                    {"t": TASK, "j": job, "s": status, "w": worker})  # fmt: skip

        def lost(young=60.0):
            with mara.store.unit() as unit:
                return job in unit.jobs.without_entry(TASK, young, 30.0)

        with mara.store.unit() as unit:
            unit.connection.execute(
                jobs.update().where(jobs.c.id == job).values(created=func.now() - timedelta(minutes=2))
            )
            alive, gone = (
                unit.connection.execute(text(f"INSERT INTO procrastinate_workers (last_heartbeat) VALUES (now() - interval '{n}s') RETURNING id")).scalar_one()
                for n in (1, 300)
            )  # fmt: skip
        assert lost()
        assert not lost(young=600.0)  # it may still be on its way
        entry("doing", gone)
        assert lost()
        with mara.store.unit() as unit:  # and the entry of the worker that is gone was closed
            left = unit.connection.execute(
                text("SELECT count(*) FROM procrastinate_jobs WHERE args->>'job' = :j"), {"j": job}
            )
            assert left.scalar() == 0
        entry("doing", alive)
        assert not lost()
        with mara.store.unit() as unit:
            unit.connection.execute(text("DELETE FROM procrastinate_jobs WHERE args->>'job' = :j"), {"j": job})
        entry("todo")
        assert not lost()
        with mara.store.unit() as unit:
            unit.connection.execute(text("DELETE FROM procrastinate_jobs WHERE args->>'job' = :j"), {"j": job})
            unit.connection.execute(
                text("DELETE FROM procrastinate_workers WHERE id IN (:a, :g)"), {"a": alive, "g": gone}
            )

    def test_are_listed_newest_first_and_not_all(self, mara, production):
        made = []
        for number in range(4):
            with mara.store.unit() as unit:
                made.append(unit.jobs.add(production, mara.person, "solve", str(number), {}).id)
        with mara.store.unit() as unit:
            assert [j.id for j in unit.jobs.recent(production, most=3)] == made[:0:-1]

    def test_handovers_are_listed_newest_first(self, mara, production):
        with mara.store.unit() as unit:
            body = parse(
                StackBody,
                {"name": "usual", "tidy": {"steps": {"even": {"step": "even out time", "rank": 1}}}},
                "the stack",
            )
            document = unit.documents.add(production, body).id
        made = []
        for number in range(2):
            with mara.store.unit() as unit:
                made.append(unit.jobs.add_handover(production, document, str(number), {}, {"checks": []}, []).id)
        with mara.store.unit() as unit:
            assert [h.id for h in unit.jobs.handovers_of(production)] == made[::-1]
            assert unit.jobs.handover(made[0]).report == {"checks": []}
            assert unit.jobs.handover(str(uuid4())) is None


class TestStretches:
    SPAN = (0, 99)

    def claimed(self, work, clip, owner, stale=60.0):
        with work.store.unit() as unit:
            return unit.stretches.claim(clip, "landmarks", self.SPAN, owner, stale)

    def test_belong_to_who_claims_them_first(self, mara, source):
        assert self.claimed(mara, source, "one")
        assert not self.claimed(mara, source, "two")

    def test_of_a_silent_owner_are_taken_over_and_begin_anew(self, mara, source):
        self.claimed(mara, source, "one")
        with mara.store.unit() as unit:
            unit.stretches.advance(source, "landmarks", self.SPAN, "one", 40)
        long_ago(mara, stretches, stretches.c.footage == source)
        assert self.claimed(mara, source, "two")
        with mara.store.unit() as unit:
            assert unit.stretches.state(source, "landmarks") == {self.SPAN: (0, "")}
            unit.stretches.advance(source, "landmarks", self.SPAN, "one", 90)  # its old owner wakes up
            assert unit.stretches.state(source, "landmarks") == {self.SPAN: (0, "")}

    def test_that_are_finished_are_never_taken_over(self, mara, source):
        self.claimed(mara, source, "one")
        with mara.store.unit() as unit:
            unit.stretches.advance(source, "landmarks", self.SPAN, "one", 100, "a" * 64)
        long_ago(mara, stretches, stretches.c.footage == source)
        assert not self.claimed(mara, source, "two")

    def test_are_left_without_what_is_finished(self, mara, source):
        with mara.store.unit() as unit:
            for first in (0, 100):
                unit.stretches.claim(source, "landmarks", (first, first + 99), "one", 60)
            unit.stretches.advance(source, "landmarks", (0, 99), "one", 100, "a" * 64)
            unit.stretches.leave(source, "landmarks", "one")
            assert unit.stretches.state(source, "landmarks") == {(0, 99): (100, "a" * 64)}
            unit.stretches.forget(source, "landmarks")
            assert unit.stretches.state(source, "landmarks") == {}


class TestUploads:
    def test_grow_piece_by_piece_and_keep_only_the_whole(self, mara, production):
        with mara.store.unit() as unit:
            begun = unit.uploads.begin(production, mara.person, 30)
            unit.uploads.add_piece(begun, "a" * 64, 20)
            half = unit.uploads.get(begun.id)
            assert (half.received, half.pieces, half.media) == (20, ("a" * 64,), "")
            assert unit.uploads.needs("a" * 64)
            unit.uploads.finish(begun.id, "c" * 64)
            whole = unit.uploads.get(begun.id)
            assert (whole.media, whole.pieces) == ("c" * 64, ())
            assert not unit.uploads.needs("a" * 64)

    def test_that_nobody_went_on_with_are_found_and_forgotten(self, mara, production):
        with mara.store.unit() as unit:
            begun = unit.uploads.begin(production, mara.person, 30)
            assert begun.id not in [u.id for u in unit.uploads.stale(1)]
        with mara.store.unit() as unit:
            assert begun.id in [u.id for u in unit.uploads.stale(0)]
            unit.uploads.forget(begun.id)
            assert unit.uploads.get(begun.id) is None


class TestPeople:
    def test_are_found_by_name_and_by_id(self, base):
        name = f"Odo {uuid4().hex[:6]}"
        with base.store.unit() as unit:
            made = unit.people.add(name, "hash")
            assert unit.people.by_name(name) == unit.people.by_id(made.id) == made
            assert unit.people.by_name("nobody at all") is None
            assert unit.people.by_id(str(uuid4())) is None

    def test_have_a_role_in_their_productions_only(self, mara, ivo, stranger, production):
        with mara.store.unit() as unit:
            assert unit.people.role(production, mara.person) == "owner"
            assert unit.people.role(production, ivo.person) == "member"
            assert unit.people.role(production, stranger.person) is None
            assert [p.id for p in unit.people.productions_of(ivo.person)] == [production]
            assert production in unit.people.all_productions()
