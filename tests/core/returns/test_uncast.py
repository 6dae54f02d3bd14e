"""Back through the cast sheet: channels for which a character shows what is wanted."""

from dataclasses import replace

import numpy as np
import pytest

from dynaface.assets import ASSETS
from dynaface.core.cast.apply import cast_channels
from dynaface.core.cast.sheet import CastSheet
from dynaface.core.returns.uncast import Wanted, uncast
from dynaface.formats.character_file import open_character
from tests.makers import channels

FRAMES = range(20, 41)
SHEETS = {
    "as it is": CastSheet(),
    "stronger and bent": CastSheet(region_strength={"lips": 1.3}, shape_strength={"jawOpen": 0.7}, bend={"mouthSmileLeft": 1.4}),
}  # fmt: skip


@pytest.fixture(scope="module", params=["odile", "brindle"])
def character(request):
    rig, _, _ = open_character((ASSETS / f"characters/{request.param}.glb").read_bytes(), f"{request.param}.glb")
    return rig


def bumped(made, **by):
    wave = np.zeros(made.frames, np.float32)
    wave[FRAMES.start : FRAMES.stop] = np.sin(np.linspace(0, np.pi, len(FRAMES)))
    values = made.values.copy()
    for name, much in by.items():
        values[:, made.names.index(name)] += much * wave
    return replace(made, values=np.clip(values, 0, 1))


def face():
    """A quiet face."""
    made = channels(frames=60)
    return replace(made, values=made.values * np.float32(0.4))


def shown(made, rig, sheet):
    cast = cast_channels(made, rig, sheet)
    return {t: cast.weights[:, n].astype(np.float64) for n, t in enumerate(cast.targets)}, {**cast.eyes, **cast.turns}


@pytest.mark.parametrize("sheet", SHEETS.values(), ids=SHEETS)
def test_what_the_sheet_makes_of_channels_is_traced_back_to_them(character, sheet):
    was = face()
    meant = bumped(was, jawOpen=0.3, mouthSmileLeft=0.25)
    weights, _ = shown(meant, character, sheet)
    before, _ = shown(was, character, sheet)
    changed = {t: w for t, w in weights.items() if np.abs(w - before[t]).max() > 1e-3}
    found = uncast(was, Wanted(changed, {}), character, sheet, FRAMES)
    after, _ = shown(found.channels, character, sheet)
    for target, meant_weight in changed.items():
        assert np.abs(after[target] - meant_weight).max() < 0.02, target
    assert max(found.left.values()) < 0.02
    for name in ("jawOpen", "mouthSmileLeft"):
        np.testing.assert_allclose(found.channels.column(name), meant.column(name), atol=0.04)
    outside = np.r_[0 : FRAMES.start, FRAMES.stop : 60]
    for name in was.names:
        np.testing.assert_array_equal(found.channels.column(name)[outside], was.column(name)[outside])


def test_what_nothing_drives_is_said_to_be_left(character):
    wanted = Wanted({"a target of nobody": np.ones(60)}, {})
    found = uncast(face(), wanted, character, CastSheet(), FRAMES)
    assert found.left == {"a target of nobody": 1.0}
    np.testing.assert_array_equal(found.channels.values, face().values)


def test_what_a_character_cannot_show_is_gone_toward_and_the_rest_is_told(character):
    was, sheet = face(), CastSheet()
    before, after = (shown(c, character, sheet)[0] for c in (was, bumped(was, jawOpen=0.5)))
    target = max(before, key=lambda t: np.abs(after[t] - before[t]).max())
    wanted = Wanted({target: np.full(60, 3.0)}, {})
    found = uncast(was, wanted, character, sheet, FRAMES)
    assert found.left[target] > 1.0
    assert found.channels.values.max() <= 1.0 + 1e-6
