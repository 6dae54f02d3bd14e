"""Evaluating a take: source -> even time -> tidy stack -> cast sheet -> join, as far as is asked."""

import json
from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from functools import lru_cache
from typing import Any

import numpy as np

from dynaface.core import checks
from dynaface.core.body.join import (
    JoinSettings,
    Performance,
    Stance,
    body_offset,
    joint_matches,
    parse_join,
    perform,
    stand,
)
from dynaface.core.body.skeleton import Motion
from dynaface.core.cast.character import Character
from dynaface.core.cast.crossings import WORDS as CROSSING_WORDS
from dynaface.core.cast.crossings import find_crossings
from dynaface.core.cast.matching import match_targets
from dynaface.core.cast.sheet import CastSheet, parse_sheet
from dynaface.core.clock.rates import format_rate
from dynaface.core.curves.channels import Channels, Recording
from dynaface.core.documents.kinds import check_take, stack_of
from dynaface.core.errors import InputError
from dynaface.core.records.records import Document, Source
from dynaface.core.tidy.hand import Hand, apply_hand, parse_hand
from dynaface.core.tidy.stack import describe_placed, evaluate, parse_stack, placed, run_step
from dynaface.services.by_identity import Same
from dynaface.services.load_source import load_character, load_motion, load_recording
from dynaface.services.open_take import cast_key, empty_cast, open_take
from dynaface.services.work import Work, document_for, source_for

PARTS = ("raw", "tidied", "weights", "head", "motion")


@dataclass(frozen=True)
class Overrides:
    """What a drag shows before it is dropped: parts of documents in place of what is stored; character: another one."""

    tidy: Mapping[str, Any] | None = None
    cast: Mapping[str, Any] | None = None
    join: Mapping[str, Any] | None = None
    character: str | None = None
    curves: str | None = None
    hand: Mapping[str, Any] | None = None


@dataclass(frozen=True)
class Bench:
    """A take with all that is needed to evaluate it."""

    take: Document
    recording: Recording
    stack: tuple[str, ...]
    hand: Mapping[str, Hand]
    character: Character | None
    character_source: Source | None
    sheet: CastSheet
    body: Motion | None
    settings: JoinSettings


def prepare(work: Work, take: str, overrides: Overrides | None = None) -> Bench:
    """Loads a take for evaluating; raises InputError when it has no curves."""
    overrides = overrides or Overrides()
    opened = open_take(work, take)
    found: Document = opened["take"]
    sources: dict[str, Source] = opened["sources"]
    if "curves" not in sources:
        raise InputError("this take has no curves", hint="Bring in a curve table at the Gather desk")
    body = {**found.body, "tidy": overrides.tidy} if overrides.tidy is not None else found.body
    if overrides.tidy is not None:
        check_take(body)
    hand = parse_hand(overrides.hand if overrides.hand is not None else body.get("hand", {}))
    steps = [p for p in stack_of(body) if p.on or p.step.kind == "retiming"]
    stack = tuple(json.dumps(describe_placed(p), sort_keys=True) for p in steps)
    character = source = None
    sheet = CastSheet()
    if overrides.character is not None:
        with work.store.unit() as unit:
            other = document_for(work, unit, overrides.character, "character")
            held = unit.documents.by_key(found.production, "cast", cast_key(found, other))
        opened |= {"character": other, "cast": held or empty_cast(found, other)}
    if opened["character"] is not None:
        with work.store.unit() as unit:
            source = source_for(work, unit, opened["character"].body["source"])
        character = load_character(work, source)
        given = {**opened["cast"].body, **(overrides.cast or {})}
        sheet = parse_sheet({k: v for k, v in given.items() if k not in ("performer", "character")})
    joined = {**opened["join"].body, **(overrides.join or {})}
    settings = parse_join({k: v for k, v in joined.items() if k != "take"})
    motion = load_motion(work, sources["body"]) if "body" in sources else None
    curves = sources["curves"]
    if overrides.curves is not None:
        with work.store.unit() as unit:
            curves = source_for(work, unit, overrides.curves)
        if curves.kind != "curves" or curves.production != found.production:
            raise InputError("these are no curves of this production", hint="Choose another solve")
    recording = load_recording(work, curves)
    return Bench(found, recording, stack, hand, character, source, sheet, motion, settings)


@lru_cache(maxsize=6)
def _evened(recording: Same, retiming: str) -> Channels:
    return evaluate(recording.value, parse_stack({"dynafaceStack": 1, "steps": [json.loads(retiming)]}))


@lru_cache(maxsize=24)
def _after(recording: Same, stack: tuple[str, ...]) -> Channels:
    """The recording after these steps. Each step's result is kept: a moved slider runs from its own step on."""
    if len(stack) == 1:
        return _evened(recording, stack[0])
    given = json.loads(stack[-1])
    name, on = given.pop("step"), given.pop("on")
    return run_step(_after(recording, stack[:-1]), placed(name, given, on))


@lru_cache(maxsize=6)
def _stood(recording: Same, retiming: str, character: Same, body: Same, nudge: float, travel: bool, matches: str
           ) -> Stance:  # fmt: skip
    channels = _evened(recording, retiming)
    settings = JoinSettings(json.loads(matches), nudge, 1.0, travel)
    return stand(channels, character.value.skeleton, body.value, settings)


def raw_channels(bench: Bench) -> Channels:
    """The source evened out in time and nothing else."""
    return _evened(Same(bench.recording), bench.stack[0])


def stacked_channels(bench: Bench) -> Channels:
    """The source through its tidy stack, before anything that was done by hand."""
    return _after(Same(bench.recording), bench.stack)


def tidied_channels(bench: Bench) -> Channels:
    """The source through its tidy stack and what was done by hand."""
    return _by_hand(Same(stacked_channels(bench)), json.dumps({c: h.plain() for c, h in bench.hand.items()}))


@lru_cache(maxsize=6)
def _by_hand(channels: Same, hand: str) -> Channels:
    made: Channels = apply_hand(channels.value, parse_hand(json.loads(hand)))
    return made


def performance_of(bench: Bench) -> Performance:
    """The take on its character, with its body where there is one."""
    if bench.character is None:
        raise InputError("there is no character", hint="Bring one in at the Cast desk")
    stance = None
    if bench.character.skeleton is not None:
        s = bench.settings
        matches = json.dumps(dict(s.matches), sort_keys=True)
        stance = _stood(
            Same(bench.recording),
            bench.stack[0],
            Same(bench.character),
            Same(bench.body),
            s.nudge,
            s.travel,
            matches,
        )
    weight = bench.settings.head_weight if bench.body is not None else None
    return perform(tidied_channels(bench), bench.character, bench.sheet, stance, weight)


def evaluate_take(work: Work, take: str, parts: Sequence[str], overrides: Overrides | None = None
                  ) -> tuple[dict[str, Any], dict[str, np.ndarray]]:  # fmt: skip
    """(head, arrays) of the parts asked for; arrays are float32 by name, the head says what they are."""
    for part in parts:
        checks.one_of("part", part, PARTS)
    bench = prepare(work, take, overrides)
    channels = tidied_channels(bench)
    head: dict[str, Any] = {
        "frames": channels.frames,
        "rate": format_rate(channels.rate),
        "start": channels.start,
        "timecode": str(channels.timecode) if channels.timecode else "",
        "timecodeRate": format_rate(channels.timecode.rate) if channels.timecode else "",
        "channels": list(channels.names),
    }
    arrays: dict[str, np.ndarray] = {}
    if "raw" in parts:
        arrays["raw"] = raw_channels(bench).values
    if "tidied" in parts:
        arrays["tidied"] = channels.values
    if bench.character is not None and {"weights", "head", "motion"} & set(parts):
        made = performance_of(bench)
        if "weights" in parts:
            head["targets"] = list(made.cast.targets)
            head["still"] = [list(pair) for pair in made.cast.still]
            arrays["weights"] = made.cast.weights
        if "motion" in parts:
            head["joints"] = list(made.joints)
            head["rootJoint"] = made.root_joint
            arrays["motion"], arrays["root"] = made.local, made.root
        elif "head" in parts:
            index = [made.joints.index(j) for j in made.head_joints]
            head["joints"] = list(made.head_joints)
            arrays["motion"] = made.local[:, index]
        if made.shifts:
            head["shifted"] = list(made.shifts)
            arrays["shifts"] = np.stack(list(made.shifts.values()), axis=1)
        if "weights" in parts:
            head |= _contacts(bench, made)
    return head, arrays


def _contacts(bench: Bench, made: Performance) -> dict[str, Any]:
    """The contacts that are kept and where the mesh still goes through itself, for the deck."""
    study = bench.character.study if bench.character else None
    crossed = find_crossings(made.cast.targets, made.cast.weights, study.edges) if study else []
    return {
        "kept": [
            {"kind": k.kind, "key": k.key, "first": k.first, "last": k.last, "before": k.before, "after": k.after, "on": k.on}
            for k in made.cast.kept
        ],
        "crossings": [
            {"kind": c.kind, "words": CROSSING_WORDS[c.kind], "first": c.first, "last": c.last, "peak": c.peak, "depth": c.depth}
            for c in crossed
        ],
    }  # fmt: skip


def cast_report(work: Work, take: str) -> dict[str, Any]:
    """What the cast sheet matches, what is missing, what is unused."""
    bench = prepare(work, take)
    if bench.character is None:
        return {"matched": [], "combinations": {}, "drives": [], "missing": [], "unused": [], "eyeJoints": [], "meshes": [],
                "joints": []}  # fmt: skip
    report = match_targets(bench.character, bench.sheet)
    return {
        "matched": [
            {
                "target": m.target,
                "shape": m.shape,
                "parts": dict(m.parts),
                "meshes": list(m.meshes),
                "how": m.how,
                "confidence": m.confidence,
            }
            for m in report.matched
        ],
        "combinations": {t: c.describe() for t, c in report.combinations.items()},
        "drives": [{"key": d.key, "joint": d.joint, "channel": d.channel, **d.describe()} for d in report.drives],
        "missing": list(report.missing),
        "unused": list(report.unused),
        "eyeJoints": list(report.eye_joints),
        "meshes": [m.mesh for m in bench.character.meshes],
        "joints": list(bench.character.skeleton.names) if bench.character.skeleton else [],
    }


def join_report(work: Work, take: str) -> dict[str, Any]:
    """Which joint of the character follows which of the body, and where timecode puts the body."""
    bench = prepare(work, take)
    ours = bench.character.skeleton if bench.character else None
    if ours is None or bench.body is None:
        return {"matches": {}, "target": list(ours.names) if ours else [], "source": [], "offset": None}
    return {
        "matches": joint_matches(bench.body.skeleton, ours, bench.settings),
        "target": list(ours.names),
        "source": list(bench.body.skeleton.names),
        "offset": body_offset(raw_channels(bench), bench.body),
    }
