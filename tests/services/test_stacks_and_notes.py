"""Stacks that are kept by name and run over many takes; a notes sheet on the takes of a production."""

import pytest

from dynaface.core.documents.model.take import TakeBody
from dynaface.core.errors import InputError, NotFoundError
from dynaface.formats.entries import bvh
from dynaface.services.edit_document import edit_document, undo
from dynaface.services.people.manage_productions import begin_production
from dynaface.services.take.apply_notes import apply_notes
from dynaface.services.take.import_take import import_take
from dynaface.services.take.open_take import open_take
from dynaface.services.take.saved_stacks import BODIES, MAX_TAKES, list_stacks, run_stack, save_stack
from dynaface.services.work import document_for
from dynaface.sims.walk import walk
from tests.conftest import stored
from tests.makers import table


def a_take(work, production, slate):
    return import_take(work, production, slate, "Mara Quill", [stored(work, table(), f"{slate[:1]}.csv")]).id


def body_of(work, take) -> TakeBody:
    with work.store.unit() as unit:
        return document_for(work, unit, take, TakeBody).body


def version_of(work, take):
    return open_take(work, take).take.version


def limited(work, take, more=None):
    """Puts a step into a take's stack that none has by itself."""
    step = {"step": "limit range", "on": True, "rank": 9, **(more or {})}
    return edit_document(work, take, version_of(work, take), "limit", [{"path": "tidy/steps/s1", "value": step}])


def steps_of(work, take):
    return sorted(s.step for s in body_of(work, take).tidy.steps.values())


class TestBodyStacks:
    @pytest.fixture
    def takes(self, mara, production):
        files = [stored(mara, table(), "a.csv"), stored(mara, bvh.write(walk(60, 3).motion), "walk.bvh")]
        return [import_take(mara, production, slate, "Mara Quill", files).id for slate in ("1A / 1", "1A / 2")]

    @staticmethod
    def stepped(work, take, **more):
        join = open_take(work, take).join
        step = {"step": "smooth", "rank": 1.0, "groups": ["armLeft"], "amount": 0.6, **more}
        edit_document(work, join.id, join.version, "smooth", [{"path": "tidy/s", "value": step}])

    @staticmethod
    def steps(work, take):
        return [(s.step, s.groups) for s in open_take(work, take).join.body.tidy.values()]

    def test_are_kept_beside_those_of_faces_and_given_to_other_bodies(self, mara, production, takes):
        self.stepped(mara, takes[0])
        kept = save_stack(mara, takes[0], "calm arm", BODIES)
        assert [(s["name"], s["steps"]) for s in list_stacks(mara, production, BODIES)] == [("calm arm", 1)]
        assert list_stacks(mara, production) == []
        assert run_stack(mara, kept.id, [takes[1]], BODIES) == {"done": [takes[1]], "failed": []}
        assert self.steps(mara, takes[1]) == [("smooth", ["armLeft"])]
        undo(mara, [open_take(mara, takes[1]).join.id])
        assert self.steps(mara, takes[1]) == []

    def test_steps_of_a_stretch_are_left_out_and_without_any_there_is_nothing_to_keep(self, mara, takes):
        self.stepped(mara, takes[0], first=1.0, last=2.0)
        with pytest.raises(InputError, match="no step for the body of this take would fit others"):
            save_stack(mara, takes[0], "calm", BODIES)

    def test_a_take_without_a_body_is_named(self, mara, production, takes):
        self.stepped(mara, takes[0])
        kept = save_stack(mara, takes[0], "calm", BODIES)
        bare = a_take(mara, production, "2A / 1")
        made = run_stack(mara, kept.id, [bare, takes[1]], BODIES)
        assert made["done"] == [takes[1]]
        assert made["failed"] == [{"take": bare, "why": "this take has no body"}]

    def test_a_stack_of_a_face_is_none_of_bodies(self, mara, takes):
        face = save_stack(mara, takes[0], "Usual")
        with pytest.raises(NotFoundError):
            run_stack(mara, face.id, takes, BODIES)


class TestStacks:
    @pytest.fixture
    def takes(self, mara, production):
        return [a_take(mara, production, slate) for slate in ("1A / 1", "1A / 2", "1A / 3")]

    def test_are_kept_by_name_and_listed(self, mara, production, takes):
        usual = len(steps_of(mara, takes[0]))
        limited(mara, takes[0])
        save_stack(mara, takes[0], "  Usual  ")
        assert [(s["name"], s["steps"]) for s in list_stacks(mara, production)] == [("Usual", usual + 1)]

    def test_have_a_name_of_their_own(self, mara, takes):
        save_stack(mara, takes[0], "Usual")
        with pytest.raises(InputError, match="already"):
            save_stack(mara, takes[1], "Usual")
        with pytest.raises(InputError):
            save_stack(mara, takes[1], "   ")

    def test_leave_out_what_speaks_of_frames_of_one_take(self, mara, production, takes):
        usual = len(steps_of(mara, takes[0]))
        limited(mara, takes[0], more={"places": [{"first": 3, "last": 9}]})
        save_stack(mara, takes[0], "Usual")
        assert list_stacks(mara, production)[0]["steps"] == usual

    def test_are_run_over_many_takes_and_each_can_be_undone(self, mara, takes):
        limited(mara, takes[0])
        stack = save_stack(mara, takes[0], "Usual").id
        assert run_stack(mara, stack, takes[1:])["done"] == takes[1:]
        assert all("limit range" in steps_of(mara, t) for t in takes)
        undo(mara, [takes[2]])
        assert ["limit range" in steps_of(mara, t) for t in takes] == [True, True, False]

    def test_what_fails_is_named_and_the_rest_goes_on(self, mara, ivo, stranger, takes):
        limited(mara, takes[0])
        stack = save_stack(mara, takes[0], "Usual").id
        elsewhere = a_take(mara, begin_production(mara, "Another").id, "9Z / 1")
        made = run_stack(mara, stack, [takes[1], elsewhere, "no id", takes[2]])
        assert made["done"] == [takes[1], takes[2]]
        assert [f["take"] for f in made["failed"]] == [elsewhere, "no id"]
        assert "another production" in made["failed"][0]["why"]
        assert "limit range" not in steps_of(mara, elsewhere)

    def test_are_run_over_some_and_not_over_too_many(self, mara, takes):
        stack = save_stack(mara, takes[0], "Usual").id
        for wrong in ([], [takes[0]] * (MAX_TAKES + 1)):
            with pytest.raises(InputError, match="1 to 500"):
                run_stack(mara, stack, wrong)

    def test_are_nobody_elses(self, mara, stranger, production, takes):
        stack = save_stack(mara, takes[0], "Usual").id
        for ask in (lambda: list_stacks(stranger, production), lambda: save_stack(stranger, takes[0], "Mine"),
                    lambda: run_stack(stranger, stack, takes)):  # fmt: skip
            with pytest.raises(NotFoundError):
                ask()


class TestNotes:
    @pytest.fixture
    def takes(self, mara, production):
        return {slate: a_take(mara, production, slate) for slate in ("4A / 1", "4B / 2", "7C / 1")}

    def sheet(self, work, text):
        return stored(work, text.encode(), "notes.csv")["media"]

    def test_circle_and_note_takes_found_by_slate(self, mara, production, takes):
        made = apply_notes(
            mara, production, self.sheet(mara, "slate,circled,notes\n4a/1,x,the pause\n4B / 2,,too fast\n"), "notes.csv"
        )
        assert made == {"changed": 2, "unknown": []}
        first, second, third = (body_of(mara, takes[s]) for s in takes)
        assert (first.circled, first.notes) == (True, "the pause")
        assert (second.circled, second.notes) == (False, "too fast")
        assert (third.circled, third.notes) == (False, "")

    def test_name_the_slates_that_nobody_knows(self, mara, production, takes):
        made = apply_notes(mara, production, self.sheet(mara, "slate,notes\n4A / 1,good\n99Z / 9,lost\n"), "notes.csv")
        assert made == {"changed": 1, "unknown": ["99Z / 9"]}

    def test_say_the_same_twice_without_writing_it_twice(self, mara, production, takes):
        media = self.sheet(mara, "slate,notes\n4A / 1,good\n")
        apply_notes(mara, production, media, "notes.csv")
        assert apply_notes(mara, production, media, "notes.csv")["changed"] == 0
        assert body_of(mara, takes["4A / 1"]).notes == "good"

    def test_are_added_to_what_was_noted_and_can_be_undone(self, mara, production, takes):
        take = takes["4A / 1"]
        edit_document(mara, take, version_of(mara, take), "note", [{"path": "notes", "value": "eyes first"}])
        apply_notes(mara, production, self.sheet(mara, "slate,notes\n4A / 1,then the head\n"), "notes.csv")
        assert body_of(mara, take).notes == "eyes first\nthen the head"
        undo(mara, [take])
        assert body_of(mara, take).notes == "eyes first"

    def test_are_on_all_takes_of_one_slate(self, mara, production, takes):
        again = a_take(mara, production, "4A / 1")
        assert (
            apply_notes(mara, production, self.sheet(mara, "slate,notes\n4A / 1,good\n"), "notes.csv")["changed"] == 2
        )
        assert body_of(mara, again).notes == "good"

    def test_leave_archived_takes_alone(self, mara, production, takes):
        take = takes["4A / 1"]
        edit_document(mara, take, version_of(mara, take), "archive", [{"path": "archived", "value": True}])
        made = apply_notes(mara, production, self.sheet(mara, "slate,notes\n4A / 1,good\n"), "notes.csv")
        assert made == {"changed": 0, "unknown": ["4A / 1"]}

    def test_another_file_is_no_notes_sheet(self, mara, production, takes):
        with pytest.raises(InputError, match="not a notes sheet"):
            apply_notes(mara, production, stored(mara, table(), "a.csv")["media"], "a.csv")

    def test_nobody_elses_takes_are_noted(self, mara, stranger, production, takes):
        with pytest.raises(NotFoundError):
            apply_notes(stranger, production, self.sheet(mara, "slate,notes\n4A / 1,good\n"), "notes.csv")
