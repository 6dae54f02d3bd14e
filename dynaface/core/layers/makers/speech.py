"""Speech: jaw, lips and tongue from the words that a role says."""

from collections.abc import Mapping
from typing import Any

import numpy as np

from dynaface.core.curves.channels import Channels
from dynaface.core.curves.keys import evaluate_keys
from dynaface.core.layers.around import Around
from dynaface.core.layers.maker import Made, Maker
from dynaface.core.layers.weight import Amounts
from dynaface.core.parameters import Parameter
from dynaface.core.shapes.regions import REGION
from dynaface.core.speech.lead import lead
from dynaface.core.speech.mouth import Style, mouth

SHAPES = ("lips", "jaw", "tongue")


def _make(below: Channels, parameters: Mapping[str, Any], around: Around) -> Made:
    if not around.words:
        return {}
    rate = float(below.rate)
    style = Style(parameters["jaw"], parameters["lips"], parameters["tongue"], parameters["energy"])
    times = np.arange(below.frames) / rate
    made: dict[str, Amounts] = mouth(around.words, times, style)
    if parameters["captured"] == "in its place":
        keys = lead(
            around.words, rate, below.frames, 1.0, parameters["before"] / 1000, parameters["after"] / 1000, False, 0.0
        )
        under = np.clip(evaluate_keys(keys, below.frames).astype(np.float64), 0, 1)
        for channel in {*made, *(n for n in below.names if REGION[n] in SHAPES)}:
            said = made.get(channel, np.zeros(below.frames))
            made[channel] = (said - np.nan_to_num(below.column(channel))) * under
    return {channel: curve for channel, curve in made.items() if curve.any()}


MAKER = Maker(
    "speech",
    "Speech",
    "Jaw, lips and tongue say the words of the role's sound",
    (
        Parameter("captured", "The capture's", "choice", "in its place", options=("in its place", "added to it"),
                  help="Whether the made mouth takes the place of the captured one under what is said"),
        Parameter("jaw", "Jaw", "number", 1.0, "", 0, 2, 0.01),
        Parameter("lips", "Lips", "number", 1.0, "", 0, 2, 0.01),
        Parameter("tongue", "Tongue", "number", 1.0, "", 0, 2, 0.01),
        Parameter("energy", "Louder is wider", "number", 0.6, "", 0, 2, 0.01, help="How far louder words open the jaw wider"),
        Parameter("before", "Comes before", "number", 150.0, "ms", 0, 1000, 10, help="Over how long the capture goes before a phrase"),
        Parameter("after", "Goes after", "number", 200.0, "ms", 0, 1000, 10),
    ),
    _make,
    frozenset({"words"}),
)  # fmt: skip
