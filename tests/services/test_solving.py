"""Footage through the real store: looked through, solved, chosen, undone; performer cards."""

from dataclasses import replace

import numpy as np
import pytest

from dynaface.assets import ASSETS
from dynaface.core.errors import InputError, NotFoundError
from dynaface.core.shapes.regions import FACE
from dynaface.core.shapes.standard import SHAPES
from dynaface.demo.seed import seed_footage
from dynaface.formats.card_file import read_card
from dynaface.formats.head_file import general_head
from dynaface.jobs.run_job import run_job
from dynaface.pipelines.solve_footage import parse_samples
from dynaface.services.edit_document import edit_document, undo
from dynaface.services.footage.performer_cards import list_cards, load_card, store_card
from dynaface.services.footage.propose_samples import check_neutral, find_extreme
from dynaface.services.footage.seen_landmarks import fetch_points, packed, unpacked
from dynaface.services.footage.solve_take import fetch_confidence, fetch_proxy, list_solves
from dynaface.services.jobs.follow_jobs import list_jobs
from dynaface.services.jobs.request_jobs import request_card, request_preparation, request_proposal, request_solve
from dynaface.services.load_source import load_recording
from dynaface.services.take.import_take import attach_source, import_take
from dynaface.services.take.open_take import list_takes, open_take
from tests.conftest import stored
from tests.makers import film, noise_film, table
from tests.services.evaluated import evaluated


@pytest.fixture
def quiet(mara):
    """Jobs are run by the test, not by a worker."""
    return replace(mara, defer=lambda job: None)


@pytest.fixture
def take(quiet, production):
    return import_take(quiet, production, "9A", "Mara Quill", [stored(quiet, film(), "clip.mp4")])


def last_job(work, production):
    return list_jobs(work, production)[0]


def looked_through(work, production, take):
    job = last_job(work, production)
    assert job.kind == "footage"
    run_job(work, job.id)
    assert last_job(work, production).state == "done", last_job(work, production).message
    return open_take(work, take.id).sources["footage"]


def test_a_clip_is_a_take_and_is_looked_through_in_the_background(quiet, production, take):
    row = list_takes(quiet, production)[0]
    assert row["holds"] == ["footage"]
    assert (row["stages"]["gather"], row["stages"]["solve"]) == (True, False)
    assert row["seconds"] == pytest.approx(40 / 30)
    with pytest.raises(NotFoundError, match="no proxy"):
        fetch_proxy(quiet, take.body.sources.footage)
    source = looked_through(quiet, production, take)
    points = fetch_points(quiet, source.id, 0, 99)
    assert points.shape == (40, 478, 2)
    assert np.isfinite(points).all()
    proxy = fetch_proxy(quiet, source.id)
    assert proxy.hash == source.info["proxy"]
    assert next(proxy.pieces(4, 8)) == b"ftyp"


def test_a_clip_is_solved_twice_and_the_choice_can_be_undone(quiet, production, take):
    looked_through(quiet, production, take)
    card = store_card(quiet, production, read_card((ASSETS / "demo/mara_card.json").read_bytes(), general_head()),
                      {"name": "Mara", "performer": "Mara Quill", "day": "2026-11-02"})[0]  # fmt: skip
    for chosen, frames in ((None, 12), (card.id, 6)):
        job = request_solve(quiet, take.id, chosen, 0, frames - 1)
        run_job(quiet, job.id)
        assert last_job(quiet, production).state == "done", last_job(quiet, production).message
    solves = list_solves(quiet, take.id)
    assert [s["name"] for s in solves] == ["solve 2", "solve 1"]
    assert [s["frames"] for s in solves] == [6, 12]
    assert solves[0]["card"] == "Mara"
    opened = open_take(quiet, take.id)
    assert opened.sources["curves"].id == solves[0]["source"]
    head, arrays = evaluated(quiet, take.id, ["raw"])
    assert head["frames"] == 6
    assert set(SHAPES) <= set(head["channels"])
    shapes = arrays["raw"][:, [head["channels"].index(s) for s in SHAPES]]
    assert ((shapes >= 0) & (shapes <= 1)).all()
    assert fetch_confidence(quiet, solves[0]["source"]).shape == (6, len(FACE))
    # The older solve stays, and is there again after one undo.
    _, label = undo(quiet, [take.id])
    assert label == "choose solve 2"
    assert open_take(quiet, take.id).sources["curves"].id == solves[1]["source"]
    assert len(list_solves(quiet, take.id)) == 2


def test_only_what_is_marked_is_solved_with_its_handles(quiet, production, take):
    looked_through(quiet, production, take)
    version = open_take(quiet, take.id).take.version

    def marks(value, version):
        return edit_document(quiet, take.id, version, "in and out", [{"path": "clipSpan", "value": value}])

    with pytest.raises(InputError, match="in is frame 9"):
        marks({"first": 9, "last": 3, "handles": 0}, version)
    marked = marks({"first": 4, "last": 7, "handles": 3}, version)
    run_job(quiet, request_solve(quiet, take.id, None, None, None).id)
    (solve,) = list_solves(quiet, take.id)
    assert (solve["first"], solve["frames"]) == (1, 10)
    marks({"first": 90, "last": 99, "handles": 0}, open_take(quiet, take.id).take.version)
    run_job(quiet, request_solve(quiet, take.id, None, None, None).id)
    assert "Set in and out anew" in last_job(quiet, production).message
    marks(None, open_take(quiet, take.id).take.version)
    assert marked.body.clip_span.handles == 3
    assert open_take(quiet, take.id).take.body.clip_span is None


def test_a_solve_without_a_card_says_what_it_took_for_neutral_and_takes_another(quiet, production, take):
    looked_through(quiet, production, take)
    run_job(quiet, request_solve(quiet, take.id, None, 0, 5).id)
    (solve,) = list_solves(quiet, take.id)
    assert solve["neutral"] == sorted(set(solve["neutral"]))
    assert 0 < len(solve["neutral"]) <= 12
    run_job(quiet, request_solve(quiet, take.id, None, 0, 5, neutral=20).id)
    again = list_solves(quiet, take.id)[0]
    assert again["neutral"] == list(range(14, 27))
    about = open_take(quiet, take.id).sources["curves"].info["solve"]
    assert (about["neutralAt"], about["first"]) == (20, 0)
    run_job(quiet, request_solve(quiet, take.id, None, 0, 5, neutral=40).id)
    assert "the clip has 40 frames" in last_job(quiet, production).message
    card = store_card(quiet, production, read_card((ASSETS / "demo/mara_card.json").read_bytes(), general_head()),
                      {"name": "Mara", "performer": "Mara Quill", "day": "2026-11-02"})[0]  # fmt: skip
    with pytest.raises(InputError, match="neutral face of its own"):
        request_solve(quiet, take.id, card.id, 0, 5, neutral=20)


def test_a_job_says_why_it_failed_and_leaves_what_was(quiet, production):
    take = import_take(quiet, production, "grain", "", [stored(quiet, noise_film(), "grain.mp4")])
    looked_through(quiet, production, take)
    run_job(quiet, request_solve(quiet, take.id, None, 0, None).id)
    failed = last_job(quiet, production)
    assert failed.state == "failed"
    assert "no face is seen" in failed.message
    assert "curves" not in open_take(quiet, take.id).sources
    assert np.isnan(fetch_points(quiet, take.body.sources.footage, 0, 99)).all()


def test_a_solve_can_be_cancelled_while_it_runs(quiet, production, take):
    looked_through(quiet, production, take)
    job = request_solve(quiet, take.id, None, 0, None)
    with quiet.store.unit() as unit:
        unit.jobs.change(job.id, cancelling=True)
    run_job(quiet, job.id)
    assert last_job(quiet, production).state == "cancelled"
    assert list_solves(quiet, take.id) == []


def test_samples_are_proposed_and_a_card_is_measured(quiet, production, take):
    with pytest.raises(InputError, match="not been looked through"):
        check_neutral(quiet, take.id, 0, 8)
    looked_through(quiet, production, take)
    run_job(quiet, request_proposal(quiet, take.id).id)
    found = last_job(quiet, production)
    assert (found.kind, found.state) == ("proposal", "done"), found.message
    first, last = found.result["neutral"]
    assert 0 <= first < last < 40
    assert all(0 <= frame < 40 for frame in found.result["samples"].values())
    assert isinstance(check_neutral(quiet, take.id, first, last), list)
    with pytest.raises(InputError, match="not in the clip"):
        check_neutral(quiet, take.id, 90, 95)
    job = request_card(quiet, take.id, {"name": "small", "neutral": (first, min(last, first + 3)),
                                        "samples": {"jawOpen": 30, "eyeBlinkLeft": 20, "eyeBlinkRight": 20}, "fov": 38.0})  # fmt: skip
    run_job(quiet, job.id)
    assert last_job(quiet, production).state == "done", last_job(quiet, production).message
    card = list_cards(quiet, production)[0]
    assert (card["name"], card["performer"], card["sampled"], card["ready"]) == ("small", "Mara Quill", 3, True)
    assert load_card(quiet, card["id"]).fov == 38.0
    assert card["lens"] == {"how": "given", "fov": 38.0, "low": 38.0, "high": 38.0}
    # The same clip as its own head turn: the head turns in it, or too little to tell; either way the card says which.
    job = request_card(quiet, take.id, {"name": "turned", "neutral": (first, min(last, first + 3)), "samples": {}, "turn": take.id})  # fmt: skip
    run_job(quiet, job.id)
    turned = next(c for c in list_cards(quiet, production) if c["name"] == "turned")
    assert turned["lens"]["how"] in ("measured", "assumed")
    assert load_card(quiet, turned["id"]).fov == pytest.approx(turned["lens"]["fov"], abs=0.01)
    # A channel of the card is driven by the distance of two places of the face.
    drive = {"from": "upper lip mid", "to": "chin pad", "reach": -4.0, "low": 0.2, "high": 0.9}
    edit_document(quiet, card["id"], card["version"], "drive", [{"path": "drives", "value": {"cheekPuff": drive}}])
    with pytest.raises(InputError, match="elbow"):
        edit_document(quiet, card["id"], 2, "x", [{"path": "drives", "value": {"jawOpen": {**drive, "to": "elbow"}}}])
    run_job(quiet, request_solve(quiet, take.id, card["id"], 0, 5).id)
    assert last_job(quiet, production).state == "done", last_job(quiet, production).message
    with quiet.store.unit() as unit:
        made = load_recording(quiet, unit, open_take(quiet, take.id).sources["curves"])
    puff = made.values[:, made.names.index("cheekPuff")]
    assert 0.2 - 1e-6 <= puff.min() <= puff.max() <= 0.9 + 1e-6


def test_a_sample_is_taken_again_in_a_clip_of_its_own(quiet, production, take):
    looked_through(quiet, production, take)
    other = import_take(quiet, production, "9A jawOpen again", "Mara Quill", [stored(quiet, film(), "again.mp4")])
    assert find_extreme(quiet, other.id, "jawOpen")["frame"] is None
    looked_through(quiet, production, other)
    shown = find_extreme(quiet, other.id, "jawOpen")
    assert (shown["footage"], shown["frames"]) == (other.body.sources.footage, 40)
    given = {"name": "again", "neutral": (0, 3), "samples": {"jawOpen": 5}, "fov": 38.0,
             "again": {"jawOpen": {"take": other.id, "frame": shown["frame"]}}}  # fmt: skip
    run_job(quiet, request_card(quiet, take.id, given).id)
    assert last_job(quiet, production).state == "done", last_job(quiet, production).message
    anew = load_card(quiet, list_cards(quiet, production)[-1]["id"])
    # The same picture, named from this clip itself, gives the same card.
    run_job(quiet, request_card(quiet, take.id, {**given, "samples": {"jawOpen": shown["frame"]}, "again": {}}).id)
    plain = load_card(quiet, list_cards(quiet, production)[-1]["id"])
    np.testing.assert_allclose(anew.shapes, plain.shapes, atol=1e-9)
    with pytest.raises(InputError, match="shape"):
        request_card(quiet, take.id, {**given, "again": {"grin": {"take": other.id, "frame": 1}}})


def test_a_clip_can_be_added_to_a_take_of_a_phone(quiet, production):
    take = import_take(quiet, production, "4A", "Mara Quill", [stored(quiet, table(), "a.csv")])
    attach_source(quiet, take.id, stored(quiet, film(), "clip.mp4"))
    assert set(open_take(quiet, take.id).sources) == {"curves", "footage"}
    assert last_job(quiet, production).kind == "footage"


def test_requests_that_cannot_be_met_are_refused_at_once(quiet, production):
    take = import_take(quiet, production, "4A", "", [stored(quiet, table(), "a.csv")])
    with pytest.raises(InputError, match="no footage"):
        request_solve(quiet, take.id, None, 0, None)
    with pytest.raises(InputError, match="no footage"):
        request_preparation(quiet, take.id)
    with pytest.raises(InputError, match="no standard shape"):
        request_card(quiet, take.id, {"name": "x", "neutral": (0, 5), "samples": {"wobble": 3}})


def test_strangers_see_nothing(quiet, stranger, production, take):
    footage = take.body.sources.footage
    for look in (lambda: fetch_points(stranger, footage, 0, 9), lambda: fetch_proxy(stranger, footage),
                 lambda: list_solves(stranger, take.id), lambda: list_cards(stranger, production),
                 lambda: request_solve(stranger, take.id, None, 0, None), lambda: request_proposal(stranger, take.id), lambda: check_neutral(stranger, take.id, 0, 1)):  # fmt: skip
        with pytest.raises(NotFoundError):
            look()


def test_the_demos_footage_comes_ready(quiet, production):
    seed_footage(quiet, production)
    rows = {r["slate"]: r for r in list_takes(quiet, production)}
    assert rows["4A / 1 cam"]["stages"]["solve"]
    assert list_cards(quiet, production)[0]["sampled"] > 45
    clip = open_take(quiet, rows["4A / 1 cam"]["id"])
    assert len(fetch_points(quiet, clip.sources["footage"].id, 0, 4000)) == clip.sources["footage"].info["frames"]
    assert list_jobs(quiet, production) == []


@pytest.mark.parametrize("data", [None, [], {}, {"neutral": 5}, {"neutral": [5, 2]}, {"neutral": [0, 4], "samples": {"wobble": 3}},
                                  {"neutral": [0, 4], "samples": {"jawOpen": -1}}, {"neutral": [0, 4], "samples": {"jawOpen": "x"}}])  # fmt: skip
def test_samples_that_make_no_sense_are_refused(data):
    with pytest.raises(InputError):
        parse_samples(data)


def test_samples_are_read_in_any_spelling():
    assert parse_samples({"neutral": [0, 4], "samples": {"jaw_open": 9, "Eye Blink L": 12}}).samples == {
        "jawOpen": 9,
        "eyeBlinkLeft": 12,
    }


def test_landmarks_are_kept_as_they_were():
    row = np.arange(1008, dtype=np.float32)
    assert (packed([unpacked(row)]) == row).all()
    assert unpacked(packed([None])[0]) is None
