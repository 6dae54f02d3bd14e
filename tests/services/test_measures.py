"""Measures of performers, on the real database: typed, taken of a body, used in all their takes and shots."""

import numpy as np
import pytest

from dynaface.core.errors import ConflictError, InputError, NotFoundError
from dynaface.core.measures.measures import measure
from dynaface.formats.entries.curve_table import write_table
from dynaface.services.edit_document import edit_document, undo
from dynaface.services.shot.evaluate_shot import prepare_role
from dynaface.services.take.import_take import import_take
from dynaface.services.take.open_take import open_take
from dynaface.services.take.performer_measures import list_measures, measure_from_take, own_measures
from dynaface.services.take.prepare_take import prepare_take
from tests.conftest import stored
from tests.makers import channels
from tests.services.evaluated import put
from tests.services.test_bodies_of_shots import odile, role_of, shot, take, walking

__all__ = ["odile", "shot", "take"]


def body_of(work, take):
    return prepare_take(work, take.id).snapshot.body


def moved(work, take):
    return prepare_take(work, take.id).performance


class TestKeeping:
    def test_a_performer_has_one_begun_with_nothing(self, mara, ivo, take):
        made = own_measures(mara, take.id)
        assert made.body.performer == "Mara Quill"
        assert made.body.measures.none
        assert own_measures(ivo, take.id).id == made.id
        assert [m.id for m in list_measures(mara, take.production)] == [made.id]

    def test_they_are_taken_of_a_body_in_millimetres_and_taken_back(self, mara, take):
        taken = measure_from_take(mara, take.id).body
        plain = measure(body_of(mara, take).skeleton)
        assert taken.height == pytest.approx(plain.height, abs=6e-4)
        assert taken.foot == pytest.approx(plain.foot, abs=6e-4)
        assert undo(mara, [own_measures(mara, take.id).id])[0].body.measures.none

    def test_they_are_of_the_recorded_body_whatever_was_typed(self, mara, take):
        taken = measure_from_take(mara, take.id)
        edit_document(mara, taken.id, taken.version, "taller", [put("height", 2.1)])
        assert measure_from_take(mara, take.id).body.height == taken.body.height

    def test_what_no_person_has_is_refused(self, mara, take):
        made = own_measures(mara, take.id)
        for wrong in (put("height", 17.0), put("foot", 0.0), put("hips", "tall"), put("performer", "Ivo")):
            with pytest.raises(InputError):
                edit_document(mara, made.id, made.version, "wrong", [wrong])
        with pytest.raises(InputError, match="the hips are"):
            edit_document(mara, made.id, made.version, "wrong", [put("height", 1.0), put("hips", 1.1)])

    def test_two_people_type_two_measures_and_meet_over_one(self, mara, ivo, take):
        made = own_measures(mara, take.id)
        edit_document(mara, made.id, made.version, "height", [put("height", 1.7)])
        both = edit_document(ivo, made.id, made.version, "hips", [put("hips", 0.9)])
        assert (both.body.height, both.body.hips) == (1.7, 0.9)
        with pytest.raises(ConflictError):
            edit_document(ivo, made.id, made.version, "height", [put("height", 1.8)])

    def test_a_take_without_a_performer_or_a_body_says_so(self, mara, production):
        files = [stored(mara, write_table(channels(frames=60)), "face.csv")]
        nobody = import_take(mara, production, "1", "", files)
        with pytest.raises(InputError, match="no performer"):
            own_measures(mara, nobody.id)
        faces = import_take(mara, production, "2", "Ivo Thackett", files)
        with pytest.raises(InputError, match="no body"):
            measure_from_take(mara, faces.id)

    def test_strangers_see_and_change_nothing(self, stranger, take):
        for ask in (own_measures, measure_from_take):
            with pytest.raises(NotFoundError):
                ask(stranger, take.id)
        with pytest.raises(NotFoundError):
            list_measures(stranger, take.production)


class TestUsing:
    def say(self, work, take, **metres):
        made = own_measures(work, take.id)
        return edit_document(work, made.id, made.version, "measures", [put(k, v) for k, v in metres.items()])

    def test_the_body_of_a_take_is_as_large_as_its_performer(self, mara, take):
        self.say(mara, take, hips=1.0, span=1.9)
        made = measure(body_of(mara, take).skeleton)
        assert (made.hips, made.span) == (pytest.approx(1.0, abs=2e-3), pytest.approx(1.9, abs=2e-3))

    def test_what_is_worked_out_follows_and_goes_back(self, mara, take):
        join = open_take(mara, take.id).join
        edit_document(mara, join.id, join.version, "metres", [put("travel", "metres")])
        before = moved(mara, take)
        kept = self.say(mara, take, hips=1.1)
        after = moved(mara, take)
        far = [np.linalg.norm(m.root[-1] - m.root[0]) for m in (before, after)]
        assert far[1] > 1.1 * far[0]  # longer legs go farther in as many steps
        undo(mara, [kept.id])
        assert np.array_equal(moved(mara, take).root, before.root)

    def test_in_shots_it_is_as_large_too(self, mara, shot, take):
        self.say(mara, take, hips=1.0)
        (found,) = prepare_role(mara, shot.id, role_of(shot)).bodies
        assert measure(found.body.result(mara.cache).skeleton).hips == pytest.approx(1.0, abs=2e-3)

    def test_another_performer_is_not_touched(self, mara, take):
        self.say(mara, take, hips=1.0)
        files = [stored(mara, write_table(channels(frames=300)), "face.csv"), stored(mara, walking(), "walk.bvh")]
        other = import_take(mara, take.production, "5A", "Ivo Thackett", files)
        assert measure(body_of(mara, other).skeleton).hips != pytest.approx(1.0, abs=2e-2)
