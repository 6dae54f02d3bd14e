"""Markers through the real store: brought in, laid out, solved, reviewed, switched off and solved again, undone."""

from dataclasses import replace

import numpy as np
import pytest

from dynaface.core.documents.model.layout import LayoutBody
from dynaface.core.errors import DynafaceError, InputError, NotFoundError
from dynaface.core.markers.chart import MARKS
from dynaface.core.shapes.regions import FACE
from dynaface.core.shapes.standard import SHAPES
from dynaface.formats.entries import c3d, marker_table
from dynaface.jobs.run_job import run_job
from dynaface.services.edit_document import edit_document, undo
from dynaface.services.footage.capture_head import fetch_head
from dynaface.services.footage.solve_take import fetch_confidence, list_solves
from dynaface.services.jobs.follow_jobs import list_jobs
from dynaface.services.layouts import layouts_of
from dynaface.services.markers.marker_layouts import (
    chart_places,
    fetch_markers,
    propose_again,
    propose_for_take,
    study_layout,
)
from dynaface.services.markers.solve_marker_take import fetch_solved_markers, request_marker_solve, request_samples
from dynaface.services.take.import_take import import_take
from dynaface.services.take.open_take import list_takes, open_take
from tests.conftest import stored
from tests.core.test_markers import optical_take
from tests.services.evaluated import evaluated


@pytest.fixture(scope="module")
def performed():
    take, truth = optical_take()
    labels = tuple(f"M{i:02}" for i in range(len(take.labels)))
    return replace(take, labels=labels), dict(zip(labels, take.labels, strict=True)), truth


@pytest.fixture
def quiet(mara):
    return replace(mara, defer=lambda job: None)


@pytest.fixture
def take(quiet, production, performed):
    return import_take(
        quiet, production, "12A / 1", "Mara Quill", [stored(quiet, c3d.write(performed[0]), "stage.c3d")]
    )


@pytest.fixture
def layout(quiet, take):
    return propose_for_take(quiet, take.id, "Mara, stage", (0, 30))


def ran(work, production, job):
    run_job(work, job.id)
    done = next(j for j in list_jobs(work, production) if j.id == job.id)
    assert done.state == "done", done.message
    return done


def test_markers_are_a_take(quiet, production, take, performed):
    row = list_takes(quiet, production)[0]
    assert (row["holds"], row["stages"]["gather"], row["stages"]["solve"]) == (["markers"], True, False)
    assert row["seconds"] == pytest.approx(2.0)
    head, arrays = fetch_markers(quiet, take.body.sources.markers)
    assert head["labels"] == list(performed[0].labels)
    np.testing.assert_allclose(arrays["points"], performed[0].points, atol=1e-4)


def test_a_table_of_markers_is_a_take_too(quiet, production, performed):
    short = replace(performed[0], points=performed[0].points[:20])
    made = import_take(quiet, production, "12A / 2", "", [stored(quiet, marker_table.write(short), "points.csv")])
    assert list(made.body.sources.held) == ["markers"]


def test_a_layout_is_proposed_studied_and_changed_with_undo(quiet, production, take, layout, performed):
    _, truth, _ = performed
    assert sum(truth[label] == place for label, place in layout.body.places.items()) >= 0.95 * len(MARKS)
    assert [d.id for d in layouts_of(quiet, production, LayoutBody)] == [layout.id]
    study = study_layout(quiet, layout.id)
    assert study["fixed"] >= 3
    assert study["doubts"] == []
    assert study["seen"]["jawOpen"] == "well"
    assert study["seen"]["tongueOut"] == "not seen"
    few = dict(list(layout.body.places.items())[:30])
    changed = edit_document(quiet, layout.id, layout.version, "leave places empty", [{"path": "places", "value": few}])
    assert len(changed.body.places) == 30
    assert undo(quiet, [layout.id])[0].body.places == layout.body.places
    edit_document(quiet, layout.id, changed.version + 1, "clear", [{"path": "places", "value": {}}])
    assert propose_again(quiet, layout.id).body.places == layout.body.places
    with pytest.raises(InputError, match="elbow"):
        edit_document(quiet, layout.id, 99, "wrong", [{"path": "places", "value": {"M00": "elbow"}}])


def test_a_take_is_solved_and_reviewed(quiet, production, take, layout, performed):
    ran(quiet, production, request_marker_solve(quiet, take.id, layout.id))
    solve = list_solves(quiet, take.id)[0]
    assert (solve["name"], solve["card"], solve["frames"], solve["lost"]) == ("solve 1", "Mara, stage", 240, 0)
    assert solve["confidence"] > 0.7
    curves = open_take(quiet, take.id).sources["curves"]
    about = curves.info["solve"]["markers"]
    assert about["worst"][0]["typical"] >= about["worst"][-1]["typical"]
    head, arrays = evaluated(quiet, take.id, ["raw"])
    truth = performed[2]
    busiest = max((s for s in SHAPES if not s.startswith("eyeLook")), key=lambda s: truth.column(s).std())
    curve = arrays["raw"][:, head["channels"].index(busiest)]
    assert np.corrcoef(curve, truth.column(busiest))[0, 1] > 0.9
    assert fetch_confidence(quiet, curves.id).shape == (240, len(FACE))
    solved, points = fetch_solved_markers(quiet, curves.id)
    assert points["points"].shape == (240, len(solved["labels"]), 3)
    assert np.abs(points["points"][:30]).max() < 0.3  # in the head's own frame
    shown, numbers = fetch_head(quiet, curves.id)
    assert shown["first"] == 0
    assert numbers["poses"].shape == (240, 7)
    np.testing.assert_allclose(numbers["poses"][10], [0, 0, 0, 1, 0, 0, 0], atol=0.01)
    # The head's surface lies where its markers are.
    places = {p["name"]: p["at"] for p in chart_places()}
    nose = solved["labels"].index(next(k for k, v in layout.body.places.items() if v == "nose tip"))
    assert np.linalg.norm(points["points"][5, nose] - places["nose tip"]) < 0.03


def test_a_marker_is_switched_off_and_the_take_solved_again(quiet, production, take, layout):
    ran(quiet, production, request_marker_solve(quiet, take.id, layout.id))
    worst = open_take(quiet, take.id).sources["curves"].info["solve"]["markers"]["worst"][0]["label"]
    edit_document(quiet, layout.id, layout.version, f"switch {worst} off", [{"path": f"off/{worst}", "value": True}])
    ran(quiet, production, request_marker_solve(quiet, take.id, layout.id))
    labels = open_take(quiet, take.id).sources["curves"].info["solve"]["markers"]["labels"]
    assert worst not in labels
    assert len(list_solves(quiet, take.id)) == 2


def test_samples_are_found_in_the_layouts_own_take(quiet, production, take, layout):
    done = ran(quiet, production, request_samples(quiet, layout.id))
    body = layouts_of(quiet, production, LayoutBody)[0].body
    assert len(body.samples) == done.result["samples"] > 3
    assert set(body.samples) <= set(SHAPES)
    assert undo(quiet, [layout.id])[1] == "find samples"


def test_what_cannot_be_is_refused(quiet, production, take, layout, stranger):
    curves = import_take(
        quiet, production, "none", "", [stored(quiet, b"time,jawOpen\n0,0\n0.1,0.5\n0.2,0.1\n", "a.csv")]
    )
    with pytest.raises(InputError, match="no markers"):
        propose_for_take(quiet, curves.id, "x", None)
    bare = {k: v for k, v in layout.body.places.items() if "temple" in v}
    edit_document(quiet, layout.id, layout.version, "two fixed", [{"path": "places", "value": bare}])
    assert "only 2 markers" in study_layout(quiet, layout.id)["problem"]
    with pytest.raises(InputError, match="cannot be taken out"):
        request_marker_solve(quiet, take.id, layout.id)
    with pytest.raises(NotFoundError):
        fetch_solved_markers(quiet, take.body.sources.markers)
    for look in (lambda: layouts_of(stranger, production, LayoutBody), lambda: study_layout(stranger, layout.id),
                 lambda: fetch_markers(stranger, take.body.sources.markers),
                 lambda: request_marker_solve(stranger, take.id, layout.id)):  # fmt: skip
        with pytest.raises(DynafaceError):
            look()
