"""Blinks: on chosen frames, where the eyes dart or the head turns, at a rate; and in place of those that were captured."""

from collections.abc import Mapping, Sequence
from dataclasses import replace
from typing import Any

import numpy as np

from dynaface.core.curves.channels import Channels
from dynaface.core.curves.events import blinks
from dynaface.core.layers.around import Around
from dynaface.core.layers.blink import apart, by_chance, moments, shut, varied
from dynaface.core.layers.maker import Made, Maker
from dynaface.core.layers.profile import BUILT_IN
from dynaface.core.layers.weight import Amounts
from dynaface.core.parameters import Parameter
from dynaface.core.speech.words import phrases

NO_YES = ("no", "yes")
LIDS = ("eyeBlinkLeft", "eyeBlinkRight")
BESIDE = 6  # frames between a blink and the frame by which it is named
BRIDGE = 3  # frames to each side of a captured blink at which the lid is believed again
FALLS = 0.004  # a frame by which a lid that shuts or opens goes; slower than that it drifts


def _make(below: Channels, parameters: Mapping[str, Any], around: Around) -> Made:
    frames, rate = below.frames, float(below.rate)
    bare, captured = _without(below, rate) if parameters["captured"] == "replace" else ({}, [])
    ends = [round(last * rate) for _, last in phrases(around.words)] if parameters["phrases"] == "yes" else []
    wanted = [*ends, *parameters["frames"], *captured, *moments(below, parameters["darts"] == "yes", parameters["turns"] == "yes"),
              *by_chance(frames, rate, parameters["rate"], int(parameters["seed"]))]  # fmt: skip
    lids = {lid: bare.get(lid, np.nan_to_num(below.column(lid)).astype(np.float64)) for lid in LIDS}
    length = parameters["length"] / 1000 * rate
    # A blink is named by the frame at which it is shut.
    begins = [f for f in apart(wanted, rate) if 0 <= f < frames and not _loose(f, parameters["loose"])]
    profile = around.profiles.get(parameters["profile"], BUILT_IN["plain"])
    made = varied(begins, rate, parameters["spread"], parameters["half"], parameters["double"], int(parameters["seed"]))
    out: dict[str, Amounts] = {}
    for side, lid in zip(("Left", "Right"), LIDS, strict=True):
        own = [replace(b, peak=b.peak + b.late + parameters["apart"]) for b in made] if side == "Right" else made
        closed = shut(own, frames, length, profile.upper_at, profile.closing)
        before = np.nan_to_num(below.column(lid)).astype(np.float64)
        # The lid goes the rest of its way down from where it is: one that hangs low for a look goes less far.
        out[lid] = lids[lid] + np.maximum(parameters["depth"] - lids[lid], 0) * closed - before
        # The ring of the eye follows a frame later and lets go later.
        ring = shut(own, frames, length * 1.15, profile.lower_at, profile.closing, late=1.0)
        for channel, amount in (
            (f"eyeSquint{side}", "squeeze"),
            (f"browDown{side}", "brow"),
            (f"eyeLookDown{side}", "dip"),
        ):
            if parameters[amount] > 0:
                out[channel] = ring * parameters[amount]
    return {channel: curve for channel, curve in out.items() if curve.any()}


def _loose(frame: int, loose: Sequence[int]) -> bool:
    """Whether a blink at this frame has been loosened from the maker."""
    return any(abs(frame - f) <= BESIDE for f in loose)


def _without(below: Channels, rate: float) -> tuple[dict[str, Amounts], list[int]]:
    """(lids without their blinks, bridged so that what they did besides stays; the frames at which they were shut)."""
    out: dict[str, Amounts] = {}
    peaks: list[int] = []
    found = {lid: blinks(below.column(lid), rate) for lid in LIDS}
    for lid in LIDS:
        curve = np.nan_to_num(below.column(lid)).astype(np.float64)
        for event in found[lid]:
            low, high = _flanks(curve, event.first, event.peak, event.last)
            steps = np.arange(low, high + 1)
            curve[low : high + 1] = np.interp(steps, [low, high], [curve[low], curve[high]])
            peaks.append(event.peak)
        out[lid] = curve
    # Both lids of one blink are shut within a few frames of each other.
    return out, apart(peaks, rate)


def _flanks(curve: Amounts, first: int, peak: int, last: int) -> tuple[int, int]:
    """The frames at which the lid begins to fall and has come up, beyond those at which a quarter of the way is passed."""
    while first > 0 and curve[first - 1] < curve[first] - FALLS:
        first -= 1
    while last < len(curve) - 1 and curve[last + 1] < curve[last] - FALLS:
        last += 1
    return max(first - BRIDGE, 0), min(last + BRIDGE, len(curve) - 1)


MAKER = Maker(
    "blinks",
    "Blinks",
    "Puts blinks in, and can take the captured ones out",
    (
        Parameter("frames", "On frames", "frames", [], help="Frames at which the eyes are shut"),
        Parameter("captured", "Captured ones", "choice", "keep", options=("keep", "replace"),
                  help="Replaced ones are taken out and made anew at the same moments"),
        Parameter("darts", "Where the eyes dart", "choice", "no", options=NO_YES),
        Parameter("turns", "Where the head turns fast", "choice", "no", options=NO_YES),
        Parameter("phrases", "Where a phrase ends", "choice", "no", options=NO_YES, help="Needs the words of what is said"),
        Parameter("rate", "By chance", "number", 0.0, "a minute", 0, 60, 1),
        Parameter("seed", "Chance", "number", 1.0, "", 0, 9999, 1, help="Another number gives other moments"),
        Parameter("profile", "Profile", "profile", "plain", options=tuple(BUILT_IN), help="How the lids go; edited for all blinks that are made with it"),
        Parameter("depth", "Depth", "number", 1.0, "", 0.1, 1.0, 0.01, help="Half blinks go half the way"),
        Parameter("length", "Length", "number", 300.0, "ms", 100, 900, 10),
        Parameter("apart", "Right lid later", "number", 0.0, "frames", -3, 3, 0.25),
        Parameter("spread", "Right lid varies", "number", 0.0, "frames", 0, 3, 0.25, help="By chance, earlier or later"),
        Parameter("half", "Half blinks", "number", 0.0, "", 0, 1, 0.05, help="Share of the blinks that go half the way"),
        Parameter("double", "Double blinks", "number", 0.0, "", 0, 1, 0.05, help="Share of the blinks with a second one at once"),
        Parameter("loose", "Loosened", "frames", [], help="Frames whose blink is no longer made: its keys are yours"),
        Parameter("squeeze", "Ring of the eye", "number", 0.15, "", 0, 1, 0.01),
        Parameter("brow", "Brow answers", "number", 0.05, "", 0, 1, 0.01),
        Parameter("dip", "Eyes dip", "number", 0.12, "", 0, 1, 0.01),
    ),
    _make,
    frozenset({"words", "profiles"}),
)  # fmt: skip
