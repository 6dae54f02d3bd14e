"""A whole tidy stack proposed from what is measured on a take, each step with its reason."""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from typing import Any

import numpy as np

from dynaface.core.curves.channels import Channels, Recording
from dynaface.core.curves.timing import examine
from dynaface.core.shapes.regions import REGION, REGIONS
from dynaface.core.snags.find import find_snags
from dynaface.core.snags.snag import Evidence, Snag
from dynaface.core.sound.sound import Sound
from dynaface.core.tidy.place import MAX_PLACES
from dynaface.core.tidy.stack import FIRST, evaluate, placed, run_step

# What went wrong in tracking, in the order in which it is mended. What may be acting is left to the animator.
MENDED = ("gap", "frozen", "spike", "head pop", "jitter burst", "drift")
MENDED_AFTER = ("lids out of step", "weak blink", "gaze apart")
SURE_DRIFT = 0.2
AUDIBLE = 0.0015  # noise below this is no jitter that anybody sees
WORDS = {
    "gap": "gaps are filled from the frames beside them",
    "frozen": "tracking stood still; what was lost is bridged",
    "spike": "wild frames are bridged: {n}",
    "head pop": "the head jumps; it is led over in {n} places",
    "jitter burst": "trembles here far more than in the rest of the take",
    "drift": "neutral drifts by more than it should",
    "lids out of step": "blinks are not together in both eyes: {n}",
    "weak blink": "blinks do not close: {n}",
    "gaze apart": "the eyes look past each other: {n} times",
}


@dataclass(frozen=True)
class Proposal:
    """steps: plain steps of a stack; reasons: one for each, in an animator's words."""

    steps: tuple[Mapping[str, Any], ...]
    reasons: tuple[str, ...]


def propose(source: Recording | Channels, sound: Sound | None = None, sound_start: float = 0.0) -> Proposal:
    """Looks a take through, mending as it goes, and says what it did. The input stays as it is."""
    steps: list[Mapping[str, Any]] = []
    reasons: list[str] = []

    def add(step: Mapping[str, Any], why: str) -> None:
        steps.append(step)
        reasons.append(why)

    if isinstance(source, Recording):
        add({"step": FIRST, "on": True}, _timing(source))
        current = evaluate(source, (placed(FIRST, {}),))
    else:
        current = source
    for kind in (*MENDED, "noise", *MENDED_AFTER):
        if kind == "noise":
            smooth, why = _smoothing(current)
            found = [(smooth, why)] if smooth else []
        else:
            snags = find_snags(Evidence(current, sound, sound_start), (kind,))
            found = _mends([s for s in snags if kind != "drift" or _is_tracking(s, current.names)])
        for step, why in found:
            add(step, why)
            given = {k: v for k, v in step.items() if k not in ("step", "on")}
            current = run_step(current, placed(str(step["step"]), given))
    return Proposal(tuple(steps), tuple(reasons))


def _is_tracking(drift: Snag, names: Sequence[str]) -> bool:
    """A mend of the whole take must be surer than one of a moment. A tracker that drifts takes most of a region along; an
    actor's mood takes one shape.
    """
    region = [n for n in names if REGION[n] == drift.region]
    return drift.severity > SURE_DRIFT and len(drift.channels) >= 0.5 * len(region)


def joined(snags: Sequence[Snag]) -> list[Mapping[str, Any]]:
    """The mends of snags as few steps: those that differ only in place become one step with many places."""
    out: list[dict[str, Any]] = []
    for snag in sorted(snags, key=lambda s: s.first):
        for step in snag.steps:
            own = {k: v for k, v in step.items() if k != "places"}
            same = next((o for o in out if {k: v for k, v in o.items() if k != "places"} == own
                         and len(o["places"]) < MAX_PLACES), None)  # fmt: skip
            if same is None or not step.get("places"):
                out.append({**step, "places": list(step.get("places", []))})
            else:
                same["places"] = [*same["places"], *step["places"]]
    return list(out)


def _mends(snags: Sequence[Snag]) -> list[tuple[Mapping[str, Any], str]]:
    if not snags:
        return []
    words = WORDS[snags[0].kind]
    return [(step, words.format(n=len(step["places"]))) for step in joined(snags)]


def _timing(recording: Recording) -> str:
    found = examine(recording.times, recording.rate)
    if not (found.dropped or found.doubled or found.uneven):
        return f"frames are even at {float(recording.rate):g} a second"
    return f"{found.dropped} dropped, {found.doubled} doubled and {found.uneven} uneven frames"


def _smoothing(channels: Channels) -> tuple[Mapping[str, Any] | None, str]:
    """A smoothing step for the regions in which noise was measured."""
    evidence = Evidence(channels)
    regions = np.array([REGION[n] for n in channels.names])
    # A channel that rests at 0 shows no noise there: the noisier ones of a region speak for it.
    noise = {r: float(np.percentile(evidence.noise[regions == r], 75)) for r in REGIONS if (regions == r).any()}
    wanted = {r: 0.5 if v > AUDIBLE else 0.0 for r, v in noise.items()}
    if not any(wanted.values()):
        return None, ""
    worst = max(noise, key=lambda r: noise[r])
    amount = {r: wanted.get(r, 0.0) for r in REGIONS}
    step = {"step": "smooth", "on": True, "method": "fit to motion", "amount": amount, "keep": "blinks and closures"}
    return (
        step,
        f"noise of {noise[worst]:.3f} was measured, most on the {worst}; smoothing is as wide as the motion allows",
    )
