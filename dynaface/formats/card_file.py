"""card.json: a performer card as text. {"dynafaceCard": 1, "size", "fov", "arrays": base64 of a NumPy archive}."""

import base64
import binascii
import io
import json
import zipfile
from typing import Any

import numpy as np

from dynaface.core.errors import InputError
from dynaface.core.shapes.standard import SHAPES
from dynaface.core.solve.card import LidSample, PerformerCard
from dynaface.core.solve.features import SIZE, FeatureModel
from dynaface.core.solve.skin_noise import WAYS, SkinNoise
from dynaface.core.track.head import Head

LIMIT = 40_000_000
EYEBALL = 0.0121  # metres, of cards that do not say
_SIDES = ("left", "right")
_SCALE = 1e5  # shapes are kept in hundredths of a millimetre


def write_card(card: PerformerCard) -> bytes:
    """The card's text."""
    packed = io.BytesIO()
    shut: dict[str, Any] = {f"{side}_shut": lid.shut for side, lid in zip(_SIDES, card.lids, strict=True) if lid}
    np.savez_compressed(
        packed,
        points=card.points.astype(np.float32),
        shapes=np.clip(np.round(card.shapes * _SCALE), -32767, 32767).astype(np.int16),
        picture=np.clip(np.round(card.picture), 0, 255).astype(np.uint8),
        noise=card.noise.alone.astype(np.float32),
        noise_together=card.noise.together.astype(np.float32),
        turn=card.turn,
        rest=card.features.rest.astype(np.float32),
        basis=card.features.basis.astype(np.float32),
        feature_noise=card.features.noise.astype(np.float32),
        places=card.features.places.astype(np.float32),
        left_ball=card.balls[0].astype(np.float32),
        right_ball=card.balls[1].astype(np.float32),
        downs=np.array([lid.down if lid else 0.0 for lid in card.lids], np.float32),
        **shut,
        looks=card.looks.astype(np.float32),
        solved=card.solved,
        sampled=card.sampled,
        eyeball=np.array(card.eyeball),
    )
    text = base64.b64encode(packed.getvalue()).decode()
    return json.dumps({"dynafaceCard": 1, "size": card.size, "fov": card.fov, "arrays": text}).encode()


def read_card(data: bytes, head: Head) -> PerformerCard:
    """The card; raises InputError for anything that is none."""
    if len(data) > LIMIT:
        raise InputError(f"the performer card is {len(data) / 1e6:.0f} MB", hint="This is no card of ours")
    try:
        given = json.loads(data)
        if not isinstance(given, dict) or given.get("dynafaceCard") != 1:
            raise InputError("this is no performer card", hint='Make one with "dynaface card"')
        with np.load(io.BytesIO(base64.b64decode(given["arrays"], validate=True)), allow_pickle=False) as packed:
            arrays = {name: packed[name] for name in packed.files}
        width, height = (int(v) for v in given["size"])
        return _card(arrays, (width, height), float(given["fov"]), head)
    except (ValueError, KeyError, TypeError, binascii.Error, zipfile.BadZipFile, OSError, EOFError) as error:
        raise InputError(f"the performer card is damaged: {error}", hint="Make it again") from None


def _lid(arrays: dict[str, Any], eye: int) -> LidSample | None:
    """A shut eye; cards of before these were kept, and those without a blink, have none."""
    shut = arrays.get(f"{_SIDES[eye]}_shut")
    if shut is None:
        return None
    if shut.shape != arrays[f"{_SIDES[eye]}_ball"].shape:
        raise InputError(f"the performer card's shut eye is {shut.shape}; it must be as large as the open one")
    return LidSample(shut.astype(np.float32), float(np.clip(arrays["downs"][eye], 0, 1)))


def _eyeball(arrays: dict[str, Any]) -> float:
    """Cards of before it was measured were made with the same for everybody."""
    radius = float(arrays.get("eyeball", EYEBALL))
    if not 0.005 < radius < 0.03:
        raise InputError(f"the performer card's eyeballs have a radius of {radius * 1000:g} mm")
    return radius


def _skin_noise(arrays: dict[str, Any]) -> SkinNoise:
    """Cards of before it was measured know of no points that are off together."""
    alone = arrays["noise"].astype(np.float64)
    together = arrays.get("noise_together", np.zeros((len(alone), 3, 0))).astype(np.float64)
    if together.ndim != 3 or together.shape[:2] != (len(alone), 3) or together.shape[2] > WAYS:
        raise InputError(
            f"the performer card's noise is {together.shape}; it must be {(len(alone), 3)} by {WAYS} at most"
        )
    return SkinNoise(alone, together)


def _card(arrays: dict[str, Any], size: tuple[int, int], fov: float, head: Head) -> PerformerCard:
    count, shapes = len(head.points), len(SHAPES)
    wanted = {"points": (count, 3), "shapes": (shapes, count, 3), "turn": (4,), "rest": (SIZE,), "basis": (SIZE, shapes),
              "places": (478, 3), "looks": (4, shapes), "solved": (shapes,), "sampled": (shapes,)}  # fmt: skip
    for name, shape in wanted.items():
        if arrays[name].shape != shape:
            raise InputError(f"the performer card's {name} is {arrays[name].shape}; it must be {shape}")
    if not (1 < fov < 170 and 16 <= size[0] <= 4096 and 16 <= size[1] <= 4096):
        raise InputError(f"the performer card's camera is {size} with {fov:g} degrees")
    features = FeatureModel(*(arrays[n].astype(np.float64) for n in ("rest", "basis", "feature_noise", "places")))
    return PerformerCard(
        size,
        fov,
        arrays["points"].astype(np.float64),
        arrays["shapes"].astype(np.float64) / _SCALE,
        arrays["picture"].astype(np.float32),
        _skin_noise(arrays),
        arrays["turn"],
        features,
        (arrays["left_ball"], arrays["right_ball"]),
        (_lid(arrays, 0), _lid(arrays, 1)),
        arrays["looks"].astype(np.float64),
        arrays["solved"],
        arrays["sampled"],
        _eyeball(arrays),
    )
