"""Markers: proposed layouts, the head taken out, weights from what is left."""

from dataclasses import replace

import numpy as np
import pytest

from dynaface.core.cast.joints import parse_drive, turns_and_shifts
from dynaface.core.curves.channels import Channels
from dynaface.core.curves.rerate import at_rate
from dynaface.core.errors import InputError
from dynaface.core.markers.basis import MarkerBasis
from dynaface.core.markers.chart import MARKS, with_irises
from dynaface.core.markers.drive import parse_drives
from dynaface.core.markers.layout import Layout, neutral_points, parse_layout
from dynaface.core.markers.propose_layout import propose_layout
from dynaface.core.markers.review import belief_by_region, worst_markers
from dynaface.core.markers.rigid import fit_rigid, head_motion
from dynaface.core.markers.solve import noise_of, solve_markers
from dynaface.core.shapes.regions import REGIONS
from dynaface.core.shapes.standard import HEAD_TRAVEL, SHAPES
from dynaface.formats.head_file import general_head, landmark_places
from dynaface.pipelines.solve_markers import basis_of, fixed_labels, general_chart, solve_with
from dynaface.sims.footage.performer import make_performer
from dynaface.sims.footage.script import expressive
from dynaface.sims.optical_stage import ORIGIN, RATE, Stage, capture, head_sway

STANDING = np.array([[1.0, 0, 0], [0, 0, -1], [0, 1, 0]])  # a stage whose z is up


def performance():
    """A performer, a third of a second of stillness and a performance after it, at 120 fps."""
    acted = at_rate(expressive(2.0, 770), RATE)
    values = acted.values[:240].copy()
    values[:40, : len(SHAPES)] = 0
    values[:40, len(SHAPES) :] = values[40, len(SHAPES) :]
    return make_performer(general_head(), 77), Channels(acted.names, values, RATE)


@pytest.fixture(scope="module")
def performed():
    return performance()


def optical_take():
    """(markers, truth) of the performance on a clean stage."""
    return shot(performance())


def shot(performed, **stage):
    performer, truth = performed
    return capture(performer, landmark_places(), MARKS, truth, Stage(**stage), 5), truth


@pytest.mark.parametrize("turned", [None, STANDING])
def test_places_are_proposed_from_a_neutral_face_whatever_the_labels_and_axes(performed, turned):
    take, _ = shot(performed, spare=4, turned=turned)
    shuffled = np.random.default_rng(0).permutation(len(take.labels))
    named = replace(take, labels=tuple(f"m{i}" for i in range(len(take.labels))), points=take.points[:, shuffled])
    made = propose_layout(named, general_chart(), (0, 30))
    truth = {f"m{i}": take.labels[at] for i, at in enumerate(shuffled)}
    right = sum(truth[label] == place for label, place in made.places.items())
    assert right >= 0.95 * len(MARKS)
    assert parse_layout(made.describe()) == made


def test_few_markers_are_too_few_and_wrong_layouts_are_refused(performed):
    take, _ = shot(performed)
    with pytest.raises(InputError, match="only 3 markers"):
        propose_layout(replace(take, labels=take.labels[:3], points=take.points[:, :3]), general_chart(), (0, 5))
    with pytest.raises(InputError, match="neutral frames"):
        neutral_points(take, (10, 9999))
    for bad in (
        {"places": {"a": "elbow"}},
        {"places": {"a": "chin", "b": "chin"}},
        {"neutral": [1]},
        {"dynafaceLayout": 2},
        {"x": 1},
        {"samples": {"grin": 3}},
        {"samples": {"jawOpen": -1}},
        {"off": ["a marker that is not there"]},
    ):
        with pytest.raises(InputError):
            parse_layout(bad)


def test_a_rigid_motion_is_found_and_one_slipping_marker_does_not_matter():
    rng = np.random.default_rng(1)
    neutral = rng.uniform(-0.1, 0.1, (6, 3))
    turn, _, _ = fit_rigid(rng.normal(size=(9, 3)), rng.normal(size=(9, 3)), np.ones(9))
    moved = neutral @ turn.T + [0.2, 1.5, -0.1]
    moved[4] += [0.03, 0, 0]
    rotations, shifts = head_motion(moved[None], neutral, np.ones(6, bool), rounds=40)
    np.testing.assert_allclose(rotations[0], turn, atol=2e-3)
    np.testing.assert_allclose(shifts[0], [0.2, 1.5, -0.1], atol=5e-4)
    with pytest.raises(InputError, match="only 2 markers"):
        head_motion(moved[None], neutral, np.arange(6) < 2)


def true_basis(performed):
    performer, _ = performed
    places, at = with_irises(performer.head, landmark_places()), list(MARKS.values())

    def there(v):
        return places.on(v)[at]

    shapes = np.stack([there(performer.pose(row) - performer.points) for row in np.eye(len(SHAPES))])
    return MarkerBasis(tuple(MARKS), there(performer.points), shapes, (np.eye(3), -ORIGIN))


def test_without_noise_and_with_the_true_basis_the_weights_come_back(performed):
    take, truth = shot(performed, noise=0.0, additive=True)
    basis = true_basis(performed)
    layout = Layout({n: n for n in MARKS})
    made = solve_markers(take, basis, fixed_labels(layout), basis.neutral + ORIGIN)
    seen = [i for i, s in enumerate(SHAPES) if basis.seen()[s] == "well"]
    error = np.abs(made.channels.values[:, seen] - truth.values[:, seen])
    assert len(seen) > 35
    assert np.median(error) < 1e-3
    assert error.mean() < 0.01
    assert np.nanmax(np.abs(made.channels.column("headTurn") - truth.column("headTurn"))) < 0.3
    travel = np.stack([made.channels.column(n) for n in HEAD_TRAVEL], axis=1)
    went = head_sway(truth.frames) * 1000
    assert (
        np.abs(travel - (went - np.median(went, axis=0))).max() < 4
    )  # a head that turns about another place than ours


def test_gaps_swaps_and_noise_cost_little(performed):
    clean, truth = shot(performed)
    rough, _ = shot(performed, gaps=0.05, swaps=3, spare=3)
    layout = Layout({n: n for n in MARKS}, (0, 30))
    basis, neutral = basis_of(clean, layout)
    scores = []
    for take in (clean, rough):
        made, _ = solve_with(take, basis, layout, clean, neutral)
        pairs = [(made.channels.values[:, i], truth.values[:, i]) for i, s in enumerate(SHAPES)
                 if basis.seen()[s] == "well" and truth.values[:, i].max() > 0.25 and made.channels.values[:, i].std() > 1e-4]  # fmt: skip
        scores.append(np.mean([np.corrcoef(x, t)[0, 1] for x, t in pairs]))
    assert scores[0] > 0.8
    assert scores[1] > scores[0] - 0.03


def test_eight_markers_give_a_stable_answer_for_what_they_see(performed):
    take, _ = shot(performed)
    few = (
        "hairline",
        "temple left",
        "temple right",
        "chin",
        "mouth corner left",
        "mouth corner right",
        "brow mid left",
        "brow mid right",
    )
    kept = [take.labels.index(n) for n in few]
    small = replace(take, labels=few, points=take.points[:, kept])
    layout = Layout({n: n for n in few}, (0, 30))
    basis, neutral = basis_of(small, layout)
    made, _ = solve_with(small, basis, layout, small, neutral)
    assert np.isfinite(made.channels.values).all()
    assert basis.seen()["tongueOut"] == basis.seen()["noseSneerLeft"] == "not seen"
    hidden = [i for i, s in enumerate(SHAPES) if basis.seen()[s] == "not seen"]
    assert made.channels.values[:, hidden].max() == 0
    assert 3 <= 52 - len(hidden) <= 24


def test_noise_is_measured():
    rng = np.random.default_rng(3)
    slow = np.sin(np.arange(600) / 40)[:, None, None] * np.ones((1, 5, 3)) * 0.01
    assert noise_of(slow + rng.normal(0, 0.0003, slow.shape)) == pytest.approx(0.0003, rel=0.1)


def truth_points(performed):
    """Where every marker of the chart truly was."""
    return shot(performed, noise=0.0)[0]


def test_swapped_names_are_put_right_and_gaps_filled(performed):
    clean, _ = shot(performed, spare=3)
    true = truth_points(performed).points
    layout = Layout({n: n for n in MARKS}, (0, 30))
    basis, neutral = basis_of(clean, layout)
    points = clean.points.copy()
    at = {
        n: clean.labels.index(n) for n in ("mouth corner left", "smile fold left", "chin", "brow mid right", "spare0")
    }
    swapped, hole = slice(100, 130), slice(60, 90)
    one, two = at["mouth corner left"], at["smile fold left"]
    points[swapped, [one, two]] = points[swapped][:, [two, one]]
    points[hole, at["chin"]] = np.nan
    # A marker loses its name for a while and turns up without one.
    points[150:170, at["spare0"]], points[150:170, at["brow mid right"]] = points[150:170, at["brow mid right"]], np.nan
    _, mended = solve_with(replace(clean, points=points), basis, layout, clean, neutral)
    kinds = {(r.kind, r.label): (r.first, r.last) for r in mended.repairs if r.last - r.first > 8}
    assert kinds[("swap", "mouth corner left")] == pytest.approx((100, 129), abs=2)
    assert kinds[("swap", "smile fold left")] == pytest.approx((100, 129), abs=2)
    assert kinds[("unnamed", "brow mid right")] == (150, 169)
    assert kinds[("gap", "chin")] == (60, 89)
    index = {n: mended.take.labels.index(n) for n in at if n in mended.take.labels}
    for label, span in (("mouth corner left", swapped), ("brow mid right", slice(150, 170)), ("chin", hole)):
        error = np.linalg.norm(mended.filled[span, index[label]] - true[span, clean.labels.index(label)], axis=1)
        assert np.sqrt((error**2).mean()) < (0.004 if label == "chin" else 0.0015), label
    assert mended.gaps[60:90, index["chin"]].all()
    assert not mended.gaps[100:130, index["mouth corner left"]].any()


def test_what_is_sound_is_left_alone(performed):
    clean, _ = shot(performed, spare=3)
    layout = Layout({n: n for n in MARKS}, (0, 30))
    basis, neutral = basis_of(clean, layout)
    _, mended = solve_with(clean, basis, layout, clean, neutral)
    changed = np.abs(mended.take.points - clean.points[:, [clean.labels.index(n) for n in basis.labels]])
    assert np.isnan(changed).mean() < 0.002
    assert np.nanmax(changed) < 0.004
    assert mended.filled[~mended.gaps] == pytest.approx(mended.take.points[~mended.gaps])


def test_belief_falls_where_the_markers_of_a_region_are_lost_and_the_worst_marker_is_named(performed):
    clean, _ = shot(performed)
    layout = Layout({n: n for n in MARKS}, (0, 30))
    basis, neutral = basis_of(clean, layout)
    points = clean.points.copy()
    brows = [i for i, n in enumerate(clean.labels) if "brow" in n]
    points[50:80, brows] = np.nan
    wrong = clean.labels.index("nose tip")
    points[:, wrong, 0] += 0.004 * np.sin(np.arange(len(points)) / 3)
    take = replace(clean, points=points)
    made, _ = solve_with(take, basis, layout, clean, neutral)
    belief = belief_by_region(basis, made.residual, np.isin(basis.labels, fixed_labels(layout)))
    region = {r: i for i, r in enumerate(REGIONS)}
    assert belief[50:80, region["brows"]].max() < 0.35 < 0.7 < belief[90:, region["brows"]].min()
    assert belief[:, region["head"]].min() > 0.9
    assert (belief[:, region["tongue"]] == 0).all()
    assert worst_markers(basis.labels, made.residual)[0].label == "nose tip"


def test_a_distance_drives_a_channel_directly(performed):
    clean, _ = shot(performed, spare=2)
    away = np.linalg.norm(clean.column("upper lip mid") - clean.column("chin"), axis=1) * 1000
    drives = parse_drives(
        {"jawOpen": {"from": "upper lip mid", "to": "chin", "rest": float(away[:30].mean()), "reach": 12}}
    )
    layout = Layout({n: n for n in MARKS}, (0, 30), drives=drives)
    assert parse_layout(layout.describe()) == layout
    basis, neutral = basis_of(clean, layout)
    made, _ = solve_with(clean, basis, layout, clean, neutral)
    wanted = np.clip((away - away[:30].mean()) / 12, 0, 1)
    np.testing.assert_allclose(made.channels.column("jawOpen"), wanted, atol=0.02)
    from_neutral = replace(
        layout, drives=parse_drives({"jawOpen": {"from": "upper lip mid", "to": "chin", "reach": 12}})
    )
    made, _ = solve_with(clean, basis, from_neutral, clean, neutral)
    np.testing.assert_allclose(made.channels.column("jawOpen"), wanted, atol=0.02)
    spare = replace(
        layout, drives=parse_drives({"cheekPuff": {"from": "spare0", "to": "spare1", "rest": 0, "reach": 1000}})
    )
    assert solve_with(clean, basis, spare, clean, neutral)[0].channels.column("cheekPuff").std() < 0.01


def test_a_distance_that_is_no_shape_turns_a_joint_and_leaves_the_face_as_solved(performed):
    clean, _ = shot(performed)
    body = {"from": "upper lip mid", "to": "chin", "reach": 12}
    layout = Layout({n: n for n in MARKS}, (0, 30), drives=parse_drives({"distance1": body}))
    basis, neutral = basis_of(clean, layout)
    solved, _ = solve_with(clean, basis, replace(layout, drives={}), clean, neutral)
    made, _ = solve_with(clean, basis, layout, clean, neutral)
    assert made.channels.names == (*solved.channels.names, "distance1")
    assert made.channels.values[:, :-1] == pytest.approx(solved.channels.values)
    own, _ = solve_with(clean, basis, replace(layout, drives=parse_drives({"jawOpen": body})), clean, neutral)
    distance = made.channels.column("distance1")
    assert distance == pytest.approx(own.channels.column("jawOpen"))
    drive = parse_drive("hinge:distance1", {"axis": [1, 0, 0], "most": 20})
    turns, _ = turns_and_shifts((drive,), {"distance1": distance}, made.channels.frames)
    degrees = np.degrees(2 * np.arcsin(turns["hinge"][:, 0]))
    assert degrees == pytest.approx(20 * distance, abs=1e-3)


@pytest.mark.parametrize(
    ("body", "words"),
    [
        ({"from": "a", "to": "a"}, "itself"),
        ({"from": "a"}, "from and to"),
        ({"from": "a", "to": "b", "reach": 0}, "reach"),
        ({"from": "a", "to": "b", "low": 0.8, "high": 0.2}, "limits"),
        ({"from": "a", "to": "b", "x": 1}, "field"),
    ],
)
def test_a_drive_that_cannot_be_is_refused(body, words):
    with pytest.raises(InputError, match=words):
        parse_drives({"jawOpen": body})
    with pytest.raises(InputError, match="driven channel"):
        parse_drives({"grin": {"from": "a", "to": "b"}})


def test_a_drive_of_a_marker_that_is_not_there_is_explained(performed):
    clean, _ = shot(performed)
    layout = Layout({n: n for n in MARKS}, (0, 30), drives=parse_drives({"jawOpen": {"from": "chin", "to": "tooth"}}))
    basis, neutral = basis_of(clean, layout)
    with pytest.raises(InputError, match="tooth"):
        solve_with(clean, basis, layout, clean, neutral)


def test_irises_tell_where_the_eyes_look(performed):
    basis = true_basis(performed)
    looks = [SHAPES.index(s) for s in SHAPES if s.startswith("eyeLook")]
    assert {basis.seen()[SHAPES[i]] for i in looks} == {"well"}
    take, truth = shot(performed, noise=0.0, additive=True)
    made = solve_markers(take, basis, fixed_labels(Layout({n: n for n in MARKS})), basis.neutral + ORIGIN)
    assert np.abs(made.channels.values[:, looks] - truth.values[:, looks]).max() < 0.03


def test_a_look_is_told_of_both_eyes_or_of_none(performed):
    basis = true_basis(performed)
    one = [n for n in basis.labels if not ("lid" in n or "iris" in n) or n.endswith("left")]
    half = replace(basis, labels=tuple(one), shapes=basis.shapes[:, [basis.labels.index(n) for n in one]])
    for shape in (s for s in SHAPES if s.startswith("eyeLook")):
        other = shape[:-4] + "Right" if shape.endswith("Left") else shape[:-5] + "Left"
        assert half.reported[SHAPES.index(shape)] == half.reported[SHAPES.index(other)], shape
    assert half.seen()["eyeLookDownRight"] == "not seen"
