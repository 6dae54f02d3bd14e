"""Rotations against the library's, and the head's angles against what they mean."""

import numpy as np
import pytest
from scipy.spatial.transform import Rotation

from dynaface.core.body import rotations as r


@pytest.fixture(params=range(3))
def pairs(request):
    rng = np.random.default_rng(request.param)
    return Rotation.random(50, random_state=rng), Rotation.random(50, random_state=rng), rng.normal(0, 1, (50, 3))


def same(q, other):
    """(…, 4) quaternions as rotations: the sign does not count."""
    return np.abs(np.sum(q * other, axis=-1)) == pytest.approx(1, abs=1e-9)


class TestAgainstTheLibrary:
    def test_products(self, pairs):
        a, b, _ = pairs
        assert same(r.multiply(a.as_quat(), b.as_quat()), (a * b).as_quat())

    def test_inverses(self, pairs):
        a, _, _ = pairs
        assert same(r.inverse(a.as_quat()), a.inv().as_quat())

    def test_turned_vectors(self, pairs):
        a, _, vectors = pairs
        assert r.rotate(a.as_quat(), vectors) == pytest.approx(a.apply(vectors))

    def test_matrices(self, pairs):
        a, _, _ = pairs
        small = Rotation.from_rotvec(a.as_rotvec() * 0.8)
        assert same(r.matrix_quaternions(small.as_matrix()), small.as_quat())

    @pytest.mark.parametrize("axis", "xyz")
    def test_turns_about_an_axis(self, axis):
        degrees = np.linspace(-170, 170, 9)
        assert same(r.about(axis, degrees), Rotation.from_euler(axis, degrees[:, None], degrees=True).as_quat())

    def test_the_way_between(self, pairs):
        a, b, _ = pairs
        for weight in (0.0, 0.3, 1.0):
            way = (b * a.inv()).as_rotvec()
            wanted = Rotation.from_rotvec(way * weight) * a
            assert same(r.slerp(a.as_quat(), b.as_quat(), weight), wanted.as_quat())


class TestBetweenDirections:
    def test_it_takes_one_to_the_other(self, pairs):
        _, _, vectors = pairs
        for a, b in zip(vectors[:20], vectors[20:40], strict=True):
            assert r.rotate(r.between(a, b), a / np.linalg.norm(a)) == pytest.approx(b / np.linalg.norm(b))

    @pytest.mark.parametrize("way", np.eye(3))
    def test_opposite_directions_are_half_a_turn_apart(self, way):
        assert r.rotate(r.between(way, -way), way) == pytest.approx(-way)


class TestHead:
    @pytest.mark.parametrize("seed", range(3))
    def test_angles_come_back(self, seed):
        angles = np.random.default_rng(seed).uniform(-60, 60, (3, 40))
        assert np.array(r.head_angles(r.head_rotation(*angles))) == pytest.approx(angles)

    def test_left_is_the_performers_left_and_up_is_up(self):
        ahead = np.array([[0.0, 0, 1]])
        left = r.rotate(r.head_rotation(np.array([30.0]), np.zeros(1), np.zeros(1)), ahead)[0]
        up = r.rotate(r.head_rotation(np.zeros(1), np.array([30.0]), np.zeros(1)), ahead)[0]
        assert left[0] > 0.4
        assert up[1] > 0.4

    def test_a_tilt_brings_the_head_to_the_left_shoulder(self):
        top = r.rotate(r.head_rotation(np.zeros(1), np.zeros(1), np.array([20.0])), np.array([[0.0, 1, 0]]))[0]
        assert top[0] > 0.3


class TestHousekeeping:
    def test_no_length_is_no_rotation(self):
        assert r.normalised(np.zeros((2, 4))) == pytest.approx(np.tile(r.IDENTITY, (2, 1)))

    def test_signs_follow_their_neighbours_and_turns_stay(self, pairs):
        way = r.slerp(pairs[0].as_quat()[:1], pairs[1].as_quat()[:1], np.linspace(0, 1, 30))
        flipped = way * np.where(np.arange(30) % 3 == 0, -1, 1)[:, None]
        made = r.continuous(flipped)
        assert (np.sum(made[1:] * made[:-1], axis=-1) > 0).all()
        assert same(made, way)
