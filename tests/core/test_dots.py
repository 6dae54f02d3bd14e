"""Colour dots: picked, followed to a part of a pixel, told apart, solved."""

from dataclasses import replace
from fractions import Fraction

import numpy as np
import pytest

from dynaface.core.body.rotations import head_rotation
from dynaface.core.dots.dot import DotLayout, mirrored_dot, parse_dots, pick_dot
from dynaface.core.dots.flat import displacements, lay_head, learn_samples
from dynaface.core.dots.solve import solve_dots
from dynaface.core.dots.track import DotTrack, changed_back, find_dots, follow_dots
from dynaface.core.dots.turning import turned_back
from dynaface.core.errors import InputError
from dynaface.core.markers.drive import parse_drives
from dynaface.core.shapes.standard import HEAD_ANGLES, SHAPES
from dynaface.core.track.camera import Pose, camera_of
from dynaface.pipelines.solve_markers import general_chart
from dynaface.sims.footage.dots import PLACES

GREEN, BLUE, SKIN = np.array([90, 210, 125.0]), np.array([80, 130, 210.0]), np.array([190, 140, 115.0])
SIZE = (320, 240)
RNG = np.random.default_rng(8)


def picture(spots, light=1.0, blur=0.0, noise=2.0, size=SIZE):
    """Anti-aliased dots [(x, y, radius, colour)] on skin."""
    y, x = np.mgrid[0 : size[1], 0 : size[0]]
    out = np.broadcast_to(SKIN, (size[1], size[0], 3)).copy()
    for cx, cy, radius, colour in spots:
        inside = np.clip((radius - np.hypot(x - cx, y - cy)) / (1 + blur) + 0.5, 0, 1)[..., None]
        out += inside * (colour - out)
    return np.clip(out * light + RNG.normal(0, noise, out.shape), 0, 255).astype(np.uint8)


def test_a_click_anywhere_in_a_dot_finds_its_centre_colour_and_size():
    seen = picture([(100.4, 80.7, 6, GREEN), (150, 80, 5, BLUE)])
    dot = pick_dot(seen, 106, 84, "d")
    assert dot.at == pytest.approx((100.4, 80.7), abs=0.3)
    assert dot.radius == pytest.approx(6, abs=1)
    assert np.array(dot.colour) == pytest.approx(GREEN, abs=15)


@pytest.mark.parametrize(("x", "y", "words"), [(10, 10, "no dot here"), (400, 10, "is not in a picture")])
def test_what_is_no_dot_is_refused(x, y, words):
    with pytest.raises(InputError, match=words):
        pick_dot(picture([(100, 80, 6, GREEN)]), x, y, "d")


def test_the_partner_on_the_other_side_is_found():
    seen = picture([(100, 80, 6, GREEN), (222, 82, 6, GREEN), (160, 120, 6, GREEN), (224, 110, 5, BLUE)])
    layout = DotLayout(SIZE, (replace(pick_dot(seen, 160, 120, "m"), place="nose tip"),))
    partner = mirrored_dot(seen, layout, pick_dot(seen, 100, 80, "l"), "r")
    assert partner is not None
    assert partner.at == pytest.approx((222, 82), abs=0.7)


def moving(frames=40):
    """Centres (frames, 3, 2): two green dots that pass near each other, one blue."""
    t = np.arange(frames) / frames * 2 * np.pi
    one = np.stack([100 + 12 * np.sin(t), 80 + 6 * np.cos(t)], axis=1)
    two = np.stack([140 - 10 * np.sin(t), 82 + 4 * np.sin(2 * t)], axis=1)
    return np.stack([one, two, np.stack([120 + 5 * np.sin(t), 150 + 10 * np.cos(t)], axis=1)], axis=1)


def shown(centre, **how):
    return picture([(*centre[0], 5, GREEN), (*centre[1], 5, GREEN), (*centre[2], 5, BLUE)], **how)


def layout_of(centre):
    first = shown(centre)
    return DotLayout(SIZE, tuple(pick_dot(first, *c, n) for c, n in zip(centre, "abc", strict=True)))


def test_dots_are_followed_to_a_part_of_a_pixel_through_changing_light_and_blur():
    centres = moving()
    layout = layout_of(centres[0])
    film = [shown(c, light=1 + 0.3 * np.sin(n / 4), blur=1.5 * (n % 7 == 0)) for n, c in enumerate(centres)]
    track = follow_dots(iter(film), layout)
    assert np.sqrt(((track.points - centres) ** 2).sum(axis=2).mean()) < 0.3
    assert track.confidence.min() > 0.5
    assert track.swaps == ()


@pytest.mark.parametrize("colour", [GREEN, BLUE])
def test_a_dot_at_the_edge_of_a_dark_brow_is_not_drawn_to_either_side(colour):
    """Light mixes at the rim, so a dark rim would tell less of the paint than a bright one."""
    finer, at = 8, (100.3, 80.6)
    y, x = (np.mgrid[0 : SIZE[1] * finer, 0 : SIZE[0] * finer] + 0.5) / finer - 0.5
    skin = np.where(y[..., None] < at[1] - 2, SKIN * [0.5, 0.45, 0.4], SKIN)
    fine = np.where(np.hypot(x - at[0], y - at[1])[..., None] < 5, colour, skin)
    light = ((fine / 255) ** 2.2).reshape(SIZE[1], finer, SIZE[0], finer, 3).mean(axis=(1, 3))
    seen = (255 * light ** (1 / 2.2) + 0.5).astype(np.uint8)
    layout = DotLayout(SIZE, (pick_dot(seen, *at, "d"),))
    assert follow_dots(iter([seen]), layout).points[0, 0] == pytest.approx(at, abs=0.15)


def test_a_hidden_dot_is_lost_not_guessed_and_found_again():
    centres = moving()
    layout = layout_of(centres[0])
    film = [
        picture([(*c[0], 5, GREEN), (*c[1], 5, GREEN), *([] if 12 <= n < 18 else [(*c[2], 5, BLUE)])])
        for n, c in enumerate(centres)
    ]
    track = follow_dots(iter(film), layout)
    assert np.isnan(track.points[12:18, 2]).all()
    assert (track.confidence[12:18, 2] == 0).all()
    assert np.linalg.norm(track.points[22:, 2] - centres[22:, 2], axis=1).max() < 0.5


def test_another_take_begins_where_its_dots_are():
    centres = moving()
    layout = layout_of(centres[0])
    shift = np.array([9.0, -6.0])
    found, good = find_dots(shown(centres[0] + shift), layout)
    assert good.all()
    assert found == pytest.approx(centres[0] + shift, abs=0.5)
    with pytest.raises(InputError, match="none of the layout"):
        find_dots(picture([]), layout)
    with pytest.raises(InputError, match="pixels"):
        follow_dots(iter([picture([], size=(160, 120))]), layout)


def test_tracks_that_changed_places_are_changed_back():
    centres = moving()
    layout = layout_of(centres[0])
    points = centres.copy()
    points[10:20, [0, 1]] = points[10:20, [1, 0]]
    track = changed_back(DotTrack(("a", "b", "c"), points, np.ones(points.shape[:2])), layout)
    assert track.swaps == (("a", "b", 10, 19),)
    np.testing.assert_allclose(track.points, centres)


def test_layouts_come_back_and_wrong_ones_are_refused():
    layout = layout_of(moving()[0])
    again = parse_dots(layout.describe())
    assert [d.label for d in again.dots] == ["a", "b", "c"]
    good = layout.describe()
    for bad in ({"dynafaceDots": 2}, {"x": 1}, {"size": [0, 9]}, {"dots": []}, {"neutral": [5, 2]}, {"samples": {"grin": 1}},
                {"dots": {"a": {**good["dots"]["a"], "place": "elbow"}}}, {"dots": {"a": {**good["dots"]["a"], "at": [1]}}},
                {"dots": {n: {**good["dots"][n], "place": "chin"} for n in "ab"}}, {"fov": 0}):  # fmt: skip
        with pytest.raises(InputError):
            parse_dots({**good, **bad})


def before_the_camera():
    """The general head's chart before a head-mount camera: (head, camera, places, pose)."""
    chart, camera = general_chart(), camera_of(640, 480, 66)
    pose = Pose(np.array([0, 0, 0, 1.0]), np.array([0.002, 0.01, -0.2]))
    at = [chart.names.index(p) for p in PLACES]
    head = lay_head(PLACES, {p: p for p in PLACES}, camera.project(pose.see(chart.points[at])), chart, camera)
    return head, camera, at, pose


def test_what_one_camera_sees_is_solved_and_its_wobble_taken_out():
    head, camera, at, pose = before_the_camera()
    chart = general_chart()
    seen = head.basis.seen()
    well = [s for s in ("browInnerUp", "jawOpen", "mouthSmileLeft") if seen[s] == "well"]
    assert "jawOpen" in well
    frames = 60
    weights = np.zeros((frames, len(SHAPES)))
    for n, shape in enumerate(well):
        weights[:, SHAPES.index(shape)] = 0.5 - 0.5 * np.cos(np.arange(frames) / 10 + n)
    points = []
    for n, row in enumerate(weights):
        wobbled = Pose(pose.turn, pose.place + [0.001 * np.sin(n / 5), 0.001 * np.cos(n / 7), 0])
        points.append(camera.project(wobbled.see(chart.points[at] + np.tensordot(row, chart.shapes[:, at], axes=1))))
    track = DotTrack(PLACES, np.array(points), np.ones((frames, len(PLACES))))
    made = solve_dots(head, track, Fraction(30)).channels.values
    for shape in well:
        column = SHAPES.index(shape)
        assert np.corrcoef(made[:, column], weights[:, column])[0, 1] > 0.97, shape
    assert made[:, [SHAPES.index(s) for s in SHAPES if seen[s] == "not seen"]].max() == 0


def test_the_distance_of_two_dots_drives_a_channel():
    head, camera, at, pose = before_the_camera()
    jaw = general_chart().shapes[SHAPES.index("jawOpen"), at]
    wide = np.linspace(0, 1, 12)
    points = np.array([camera.project(pose.see(general_chart().points[at] + w * jaw)) for w in wide])
    track = DotTrack(PLACES, points, np.ones((12, len(PLACES))))
    drives = parse_drives({"mouthFunnel": {"from": "upper lip mid", "to": "chin pad", "reach": 40}})
    layout = DotLayout(SIZE, (), drives=drives)
    assert parse_dots(layout.describe()).drives == drives
    made = solve_dots(head, track, Fraction(30), drives).channels.column("mouthFunnel")
    assert made[0] == pytest.approx(0, abs=1e-6)
    assert (np.diff(made) > 0).all()
    seen = np.linalg.norm(
        np.diff(points[:, [PLACES.index("upper lip mid"), PLACES.index("chin pad")]], axis=1)[:, 0], axis=1
    )
    assert np.corrcoef(made, seen)[0, 1] > 0.999
    with pytest.raises(InputError, match="elbow"):
        solve_dots(head, track, Fraction(30), parse_drives({"jawOpen": {"from": "elbow", "to": "chin pad"}}))


def turning_head(frames=60):
    """(head, pixels, weights, angles): a head that turns and nods before a camera that stands, jaw and brows moving."""
    chart, camera = general_chart(), camera_of(640, 480, 40)
    at = [chart.names.index(p) for p in PLACES]
    still = Pose(np.array([0, 0, 0, 1.0]), np.array([0.0, 0.01, -0.5]))
    head = lay_head(PLACES, {p: p for p in PLACES}, camera.project(still.see(chart.points[at])), chart, camera)
    t = np.arange(frames) / 10
    weights = np.zeros((frames, len(SHAPES)))
    weights[:, SHAPES.index("jawOpen")] = 0.4 - 0.4 * np.cos(1.7 * t)
    weights[:, SHAPES.index("browInnerUp")] = 0.4 - 0.4 * np.cos(1.1 * t)
    angles = np.stack([14 * np.sin(t), 7 * np.sin(1.3 * t), 4 * np.sin(0.7 * t)], axis=1)
    turns = head_rotation(*angles.T)
    pixels = np.array([
        camera.project(Pose(turns[n], still.place + [0.01 * np.sin(t[n]), 0, 0.01 * np.cos(t[n])]).see(
            chart.points[at] + np.tensordot(weights[n], chart.shapes[:, at], axes=1)))
        for n in range(frames)
    ])  # fmt: skip
    return head, pixels, weights, angles


def test_a_head_that_turns_before_the_camera_is_taken_out():
    head, pixels, weights, angles = turning_head()
    pixels = pixels + RNG.normal(0, 0.15, pixels.shape)
    pixels[20, :12] = np.nan  # too few to tell how the head stands
    track = DotTrack(PLACES, pixels, np.isfinite(pixels[..., 0]).astype(float))
    made = solve_dots(head, track, Fraction(30), moves="head")
    for shape in ("jawOpen", "browInnerUp"):
        assert np.corrcoef(made.channels.column(shape), weights[:, SHAPES.index(shape)])[0, 1] > 0.95, shape
    found = np.stack([made.channels.column(n) for n in HEAD_ANGLES], axis=1)
    assert np.sqrt(((found - angles) ** 2).mean(axis=0)).max() < 1.2
    assert np.isnan(made.poses[20]).all()
    mounted = solve_dots(head, track, Fraction(30))
    assert mounted.channels.names == SHAPES
    with pytest.raises(InputError, match="moves"):
        solve_dots(head, track, Fraction(30), moves="camera")


def test_dots_of_a_turning_head_are_seen_as_if_the_camera_turned_with_it():
    head, pixels, weights, _ = turning_head()
    went = turned_back(head, pixels, 30.0)
    still = np.einsum("fi,imk->fmk", weights, head.basis.shapes)
    assert np.sqrt(((went - still) ** 2).mean()) < 0.0012


def test_samples_put_the_shapes_right():
    head, camera, at, pose = before_the_camera()
    jaw = SHAPES.index("jawOpen")
    farther = camera.project(pose.see(general_chart().points[at] + 1.4 * general_chart().shapes[jaw, at]))
    learned = learn_samples(head, {"jawOpen": displacements(head, farther[None])[0]})
    chin = PLACES.index("chin pad")
    assert np.linalg.norm(learned.basis.shapes[jaw, chin]) > 1.15 * np.linalg.norm(head.basis.shapes[jaw, chin])


@pytest.mark.parametrize(("kept", "words"), [(PLACES[:4], "only 4 dots"), (PLACES[4:], "expressions do not move")])
def test_too_few_dots_are_refused(kept, words):
    chart, camera = general_chart(), camera_of(640, 480, 66)
    pixels = camera.project(
        Pose(np.array([0, 0, 0, 1.0]), np.array([0, 0, -0.2])).see(chart.points[[chart.names.index(p) for p in kept]])
    )
    with pytest.raises(InputError, match=words):
        lay_head(kept, {p: p for p in kept}, pixels, chart, camera)
