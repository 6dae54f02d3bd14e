"""Colour dots through the real store: begun in a clip, picked with their partners, followed, solved, undone."""

from dataclasses import replace
from fractions import Fraction
from functools import lru_cache

import numpy as np
import pytest

from dynaface.core.curves.channels import Channels
from dynaface.core.documents.model.dots import DotsBody
from dynaface.core.errors import DynafaceError, InputError, NotFoundError
from dynaface.core.shapes.standard import HEAD_ANGLES
from dynaface.formats.entries import video
from dynaface.formats.head_file import general_head, landmark_places
from dynaface.jobs.run_job import run_job
from dynaface.services.edit_document import edit_document, undo
from dynaface.services.footage.dot_layouts import begin_dots, pick
from dynaface.services.footage.solve_dot_take import fetch_dots, request_dot_samples, request_dot_solve
from dynaface.services.footage.solve_take import list_solves
from dynaface.services.jobs.follow_jobs import list_jobs
from dynaface.services.layouts import layouts_of
from dynaface.services.load_source import load_recording
from dynaface.services.take.import_take import import_take
from dynaface.services.take.open_take import open_take
from dynaface.sims.footage.dots import PLACES, colours, film, head_mount
from dynaface.sims.footage.performer import make_performer
from dynaface.sims.footage.script import NAMES, RATE
from tests.conftest import stored


@lru_cache(maxsize=1)
def dotted():
    """(clip, centres (frames, dots, 2)) of a second in which the jaw opens and the brows go up, from rest."""
    values = np.zeros((30, len(NAMES)), np.float32)
    rise = np.sin(np.linspace(0, np.pi, 22)) ** 2
    values[8:, NAMES.index("jawOpen")] = 0.7 * rise
    values[8:, NAMES.index("browInnerUp")] = 0.8 * rise[::-1]
    made = film(
        make_performer(general_head(), 64),
        landmark_places(),
        Channels(NAMES, values, RATE),
        head_mount(64),
        64,
        colours(),
    )
    data = video.encode(made.pictures, Fraction(30))
    return data, np.array(made.centres), values


@pytest.fixture
def quiet(mara):
    return replace(mara, defer=lambda job: None)


@pytest.fixture
def take(quiet, production):
    return import_take(quiet, production, "15A", "Mara Quill", [stored(quiet, dotted()[0], "mount.mp4")])


def picked(work, dots):
    """All dots picked by an animator who lets the partners be found."""
    made = None
    for place, (x, y) in zip(PLACES, dotted()[1][0], strict=True):
        if made is None or place not in [d.place for d in made.body.dots.values()]:
            made = pick(work, dots, 0, x, y, place, mirror=True)
    return made


def test_dots_are_picked_with_their_partners_and_can_be_undone(quiet, production, take):
    begun = begin_dots(quiet, take.id, "Mara, mount")
    centres = dict(zip(PLACES, dotted()[1][0], strict=True))
    pick(quiet, begun.id, 0, *centres["hairline"], "hairline", mirror=True)
    made = pick(quiet, begun.id, 0, *centres["cheek mid left"], "cheek mid left", mirror=True)
    assert {d.place for d in made.body.dots.values()} == {"hairline", "cheek mid left", "cheek mid right"}
    right = next(d for d in made.body.dots.values() if d.place == "cheek mid right")
    assert right.at == pytest.approx(centres["cheek mid right"], abs=2)
    assert len(undo(quiet, [begun.id])[0].body.dots) == 1
    with pytest.raises(InputError, match=r"no dot|pixels across"):
        pick(quiet, begun.id, 0, 5, 5, "chin", mirror=False)
    with pytest.raises(InputError, match="elbow"):
        pick(quiet, begun.id, 0, 5, 5, "elbow", mirror=False)
    with pytest.raises(InputError, match="frame 99"):
        pick(quiet, begun.id, 99, 5, 5, "chin", mirror=False)


def solved_dots(quiet, production, take, dots):
    """A take's dots followed and solved, and what that gave."""
    job = request_dot_solve(quiet, take.id, dots)
    run_job(quiet, job.id)
    done = next(j for j in list_jobs(quiet, production) if j.id == job.id)
    assert done.state == "done", done.message
    curves = open_take(quiet, take.id).sources["curves"]
    return curves, *fetch_dots(quiet, curves.id)


def test_what_is_put_right_by_hand_is_honoured_by_the_next_solve(quiet, production, take):
    begun = begin_dots(quiet, take.id, "Mara, mount")
    made = picked(quiet, begun.id)
    edit_document(quiet, begun.id, made.version, "neutral", [{"path": "neutral", "value": [0, 6]}])
    lip = next(label for label, d in made.body.dots.items() if d.place == "upper lip mid")
    wanted = {
        "d1": {"kind": "drop", "layout": begun.id, "dot": lip, "first": 12, "last": 17},
        "d2": {"kind": "put", "layout": begun.id, "dot": lip, "frame": 25, "at": [20.0, 20.0]},
        "d3": {"kind": "drop", "layout": take.id, "dot": lip, "first": 0, "last": 29},
    }
    for name, value in wanted.items():
        now = open_take(quiet, take.id).take
        edit_document(quiet, take.id, now.version, name, [{"path": f"dots/{name}", "value": value}])
    curves, head, arrays = solved_dots(quiet, production, take, begun.id)
    points = arrays["points"][:, head["labels"].index(lip)]
    assert np.isnan(points[12:18]).all()
    assert np.isfinite(points[[11, 18], 0]).all()
    assert points[25] == pytest.approx((20, 20))
    assert set(curves.info["solve"]["dots"]["corrections"]) == {"d1", "d2"}
    undo(quiet, [take.id])
    now = open_take(quiet, take.id).take
    with pytest.raises(InputError, match="dots/d4"):
        edit_document(quiet, take.id, now.version, "x", [{"path": "dots/d4", "value": {"kind": "hide"}}])


def test_a_clip_is_followed_and_solved(quiet, production, take, stranger):
    begun = begin_dots(quiet, take.id, "Mara, mount")
    with pytest.raises(InputError, match="only 0 dots"):
        request_dot_solve(quiet, take.id, begun.id)
    made = picked(quiet, begun.id)
    assert {d.place for d in made.body.dots.values()} == set(PLACES)
    edit_document(
        quiet, begun.id, made.version, "neutral", [{"path": "neutral", "value": [0, 6]}, {"path": "fov", "value": 70.0}]
    )
    for ask in (request_dot_samples, lambda work, dots: request_dot_solve(work, take.id, dots)):
        job = ask(quiet, begun.id)
        run_job(quiet, job.id)
        done = next(j for j in list_jobs(quiet, production) if j.id == job.id)
        assert done.state == "done", done.message
    assert "jawOpen" in layouts_of(quiet, production, DotsBody)[0].body.samples
    curves = open_take(quiet, take.id).sources["curves"]
    assert list_solves(quiet, take.id)[0]["moves"] == "neither"
    head, arrays = fetch_dots(quiet, curves.id)
    order = [made.body.dots[label].place for label in head["labels"]]
    off = arrays["points"] - dotted()[1][:, [PLACES.index(p) for p in order]]
    off -= np.nanmean(off, axis=0)
    assert np.sqrt(np.nanmean((off**2).sum(axis=2))) < 0.6
    assert curves.info["solve"]["dots"]["worst"][0]["typical"] < 3
    with pytest.raises(NotFoundError):
        fetch_dots(quiet, take.body.sources.footage)
    for look in (lambda: layouts_of(stranger, production, DotsBody), lambda: fetch_dots(stranger, curves.id),
                 lambda: begin_dots(stranger, take.id, "x"), lambda: pick(stranger, begun.id, 0, 1, 1, "chin", True)):  # fmt: skip
        with pytest.raises(DynafaceError):
            look()


def test_a_head_that_moves_is_told_along(quiet, production, take):
    begun = begin_dots(quiet, take.id, "Mara, webcam")
    made = picked(quiet, begun.id)
    changes = [{"path": "neutral", "value": [0, 6]}, {"path": "moves", "value": "head"}]
    edit_document(quiet, begun.id, made.version, "what moves", changes)
    curves, _, _ = solved_dots(quiet, production, take, begun.id)
    with quiet.store.unit() as unit:
        assert set(HEAD_ANGLES) <= set(load_recording(quiet, unit, curves).names)
    assert list_solves(quiet, take.id)[0]["moves"] == "head"
