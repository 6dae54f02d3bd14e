"""Layers baked to keys or to a take; the layers stay."""

import numpy as np
import pytest

from dynaface.core.errors import InputError
from dynaface.services.edit_document import edit_document, undo
from dynaface.services.shot.bake_layers import bake_layers, bake_take
from dynaface.services.shot.evaluate_shot import prepare_role
from dynaface.services.shot.make_shot import add_layer
from dynaface.services.take.prepare_take import prepare_take
from tests.services.evaluated import put
from tests.services.test_shots import first_role, odile, shot, takes  # noqa: F401

TOLERANCE = 0.005


@pytest.fixture
def lifted(mara, shot):  # noqa: F811
    """The shot with a span and made blinks on its first role."""
    layer = add_layer(mara, shot.id, first_role(shot), "lift", "add", [])
    span = {"first": 100, "last": 160, "leadIn": 10, "leadOut": 10, "offset": {"mouthSmileLeft": 0.3, "headTurn": 8.0}}
    edit_document(
        mara,
        layer.id,
        layer.version,
        "lift",
        [put("spans/s", span), put("makers/b", {"maker": "blinks", "rank": 1.0, "frames": [40, 200]})],
    )
    return shot


def result(work, shot_id, role):
    return prepare_role(work, shot_id, role).graph.tidied.result(work.cache)


def test_baked_layers_show_the_same_within_the_tolerance(mara, lifted):
    role = first_role(lifted)
    before = result(mara, lifted.id, role)
    baked = bake_layers(mara, lifted.id, role, tolerance=TOLERANCE)
    after = result(mara, lifted.id, role)
    assert baked.body.solo
    assert {"mouthSmileLeft", "eyeBlinkLeft", "headTurn"} <= set(baked.body.keys)
    assert "jawOpen" not in baked.body.keys
    for channel in before.names:
        scale = 30 if channel.startswith("head") else 1
        known = np.isfinite(before.column(channel))
        np.testing.assert_allclose(
            after.column(channel)[known], before.column(channel)[known], atol=1.2 * TOLERANCE * scale
        )


def test_what_was_baked_can_be_had_back(mara, lifted):
    role = first_role(lifted)
    before = result(mara, lifted.id, role).values.copy()
    baked = bake_layers(mara, lifted.id, role)
    assert [n.body.name for n in prepare_role(mara, lifted.id, role).snapshot.layers] == ["lift", "baked"]
    undo(mara, [baked.id])
    np.testing.assert_array_equal(result(mara, lifted.id, role).values, before)


def test_a_baked_range_leaves_what_lies_beside_it(mara, lifted):
    role = first_role(lifted)
    before = result(mara, lifted.id, role)
    bake_layers(mara, lifted.id, role, (90, 180))
    after = result(mara, lifted.id, role)
    np.testing.assert_array_equal(after.column("eyeBlinkLeft")[:80], before.column("eyeBlinkLeft")[:80])
    np.testing.assert_array_equal(after.column("mouthSmileLeft")[200:], before.column("mouthSmileLeft")[200:])
    np.testing.assert_allclose(
        after.column("mouthSmileLeft")[90:180], before.column("mouthSmileLeft")[90:180], atol=0.01
    )


def test_a_baked_take_is_what_the_role_does(mara, lifted):
    role = first_role(lifted)
    take = bake_take(mara, lifted.id, role)
    own, made = prepare_take(mara, take.id).raw, result(mara, lifted.id, role)
    assert take.body.performer == lifted.body.roles[role].performer
    assert take.body.character == lifted.body.roles[role].character
    for channel in own.names:
        np.testing.assert_allclose(own.column(channel), made.column(channel), atol=1e-4)


@pytest.mark.parametrize("within", [(5, 4), (-1, 4), (0, 10**6)])
def test_a_stretch_that_is_none_is_refused(mara, lifted, within):
    with pytest.raises(InputError, match="stretch"):
        bake_layers(mara, lifted.id, first_role(lifted), within)


def test_where_layers_change_nothing_there_is_nothing_to_bake(mara, shot):  # noqa: F811
    with pytest.raises(InputError, match="change nothing"):
        bake_layers(mara, shot.id, first_role(shot))
