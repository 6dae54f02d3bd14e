"""Triangles onto pixels."""

import numpy as np
import pytest

from dynaface.core.picture.camera import Camera
from dynaface.core.picture.draw import Light, Lights, Paint, canvas, draw, linear, shown

SIZE = (80, 60)
CAMERA = Camera(np.array([0.0, 0.0, 2.0]), np.zeros(3), 40.0, SIZE)
AHEAD = np.array([0, 0, -1.0], np.float32)
BLACK = np.zeros(3, np.float32)
EVEN = Lights((), np.ones(3, np.float32), np.ones(3, np.float32))
SQUARE = np.array([[0, 1, 2], [0, 2, 3]])


def plate(depth=0.0, half=0.3):
    """A square that faces the camera."""
    return np.array([[-half, -half, depth], [half, -half, depth], [half, half, depth], [-half, half, depth]])


def put(on, points, paint, lights=EVEN, triangles=SQUARE, normal=(0, 0, 1.0), places=None):
    normals = np.tile(np.array(normal, np.float32), (len(points), 1))
    places = np.zeros((len(points), 2)) if places is None else np.array(places)
    draw(on, CAMERA.sees(points).astype(np.float32), normals, places, triangles, paint, lights, AHEAD)


def paint(*colour, **more):
    return Paint(np.array(colour, np.float32), **{"shine": 0.0, **more})


def test_a_surface_has_its_colour_where_it_is_and_nothing_elsewhere():
    on = canvas(SIZE, np.full(3, 0.25, np.float32))
    put(on, plate(), paint(1, 0.5, 0))
    np.testing.assert_allclose(on.pixels[30, 40], [1, 0.5, 0])
    np.testing.assert_allclose(on.pixels[2, 2], [0.25] * 3)
    # 0.6 m of the 1.456 m that are seen at this distance, in both ways.
    assert (on.depth > 0).sum() == pytest.approx((0.6 / 1.456 * 60) ** 2, rel=0.06)


@pytest.mark.parametrize("nearer_first", [True, False])
def test_the_nearer_hides_the_farther_in_whatever_order(nearer_first):
    on = canvas(SIZE, BLACK)
    plates = [(plate(0.5, 0.1), paint(1, 0, 0)), (plate(0.0), paint(0, 1, 0))]
    for points, look in plates if nearer_first else plates[::-1]:
        put(on, points, look)
    np.testing.assert_allclose(on.pixels[30, 40], [1, 0, 0])
    np.testing.assert_allclose(on.pixels[30, 30], [0, 1, 0])


def test_a_back_is_seen_only_where_that_is_said():
    for both in (False, True):
        on = canvas(SIZE, BLACK)
        put(on, plate(), paint(1, 1, 1, both=both), triangles=SQUARE[:, ::-1])
        assert bool(on.pixels.any()) is both


def test_two_triangles_of_a_square_leave_no_gap():
    on = canvas(SIZE, BLACK)
    put(on, plate(), paint(1, 1, 1))
    inside = on.pixels[20:40, 30:50, 0]
    assert (inside == 1).all()


def test_what_can_be_seen_through_mixes_and_hides_nothing():
    on = canvas(SIZE, BLACK)
    put(on, plate(), paint(0, 1, 0))
    put(on, plate(0.5), paint(1, 0, 0, opacity=0.25))
    np.testing.assert_allclose(on.pixels[30, 40], [0.25, 0.75, 0], atol=1e-6)
    put(on, plate(0.2), paint(0, 0, 1))
    np.testing.assert_allclose(on.pixels[30, 40], [0, 0, 1])


def test_light_falls_by_the_angle():
    """Lambert's cosine: at 60 degrees half of it."""
    lamp = Light(np.array([0, 0, 1.0], np.float32), np.ones(3, np.float32))
    for normal, meant in (((0, 0, 1.0), 1.0), ((0, np.sin(np.pi / 3), 0.5), 0.5), ((0, 0, -1.0), 0.0)):
        on = canvas(SIZE, BLACK)
        put(on, plate(), paint(1, 1, 1), Lights((lamp,), BLACK, BLACK), normal=normal)
        assert on.pixels[30, 40, 0] == pytest.approx(meant, abs=1e-5)


def test_a_picture_lies_right_in_perspective():
    """On a floor that goes away its middle is seen above the middle of what is seen of it."""
    floor = np.array([[-0.5, -0.3, 1.0], [0.5, -0.3, 1.0], [0.5, -0.3, -8.0], [-0.5, -0.3, -8.0]])
    halves = np.zeros((2, 2, 3), np.float32)
    halves[0] = 1  # the farther half is white
    on = canvas(SIZE, np.full(3, -1, np.float32))
    put(on, floor, paint(1, 1, 1, picture=halves), places=[[0, 1], [1, 1], [1, 0.02], [0, 0.02]])
    column = on.pixels[:, 40, 0]
    rows = np.flatnonzero(column >= 0)
    white = (column[rows] > 0.5).mean()
    assert white < 0.3


def test_bytes_of_srgb_come_back():
    levels = np.arange(256, dtype=np.uint8).reshape(1, -1, 1).repeat(3, 2)
    np.testing.assert_array_equal(shown(linear(levels)), levels)
    assert shown(np.full((1, 1, 3), 7.0, np.float32)).max() == 255
