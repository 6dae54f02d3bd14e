"""Placing the recordings of a line-up: by their counts at once; by what they heard and saw as a job in the worker."""

from collections.abc import Collection, Mapping, Sequence
from dataclasses import replace
from fractions import Fraction
from typing import Any

from dynaface.core import checks
from dynaface.core.clock.timecode import Timecode
from dynaface.core.documents.changes import path_of
from dynaface.core.documents.model.lineup import LineUpBody, LineUpEntry, key_of
from dynaface.core.errors import InputError
from dynaface.core.records.records import Document, Job
from dynaface.core.sync.fit import CONFIDENT, FitPicture
from dynaface.core.sync.line_up import MOST, WAYS, Placed, Source, line_up
from dynaface.core.sync.moment import moment_at, on_grid, seconds_of, starts_by_timecode
from dynaface.pipelines.progress import Progress
from dynaface.services.edit_document import change_document
from dynaface.services.jobs.request_jobs import queue_job
from dynaface.services.lineup.open_lineup import read_lineup
from dynaface.services.lineup.recordings import Recorded
from dynaface.services.load_source import load_motion, load_sound
from dynaface.services.take.prepare_take import prepare_take
from dynaface.services.work import Work, document_for

LOOSE = ("", "take")  # ways of which a take's own word says as much


def place_by_timecode(work: Work, lineup: str, version: int, keys: Sequence[str] = ()) -> Document[LineUpBody]:
    """Every recording with a count, or those of `keys`, is placed by it, with what its take says of its sound; in one change. The count of
    the first becomes that of the line-up. Raises InputError where none of them has a count.
    """
    with work.store.snapshot() as unit:
        found, held = read_lineup(work, unit, lineup)
    body = found.body
    wanted = _wanted(body, keys)
    codes = {key: r.timecode for key, r in held.items() if r.timecode and key in wanted}
    if not codes:
        raise InputError(
            "none of these recordings has a timecode",
            hint="Line them up by sound, motion or a clap, or write starts on a notes sheet",
        )
    begins = body.begins if keys else None
    starts = _after(begins, codes)
    changes: list[dict[str, Any]] = []
    if begins is None:
        first = codes[starts_by_timecode(codes)[1]]
        begins, shift = _whole_frame(first, body.fps)
        starts = {key: start + shift for key, start in starts.items()}
        changes.append({"path": "timecode", "value": str(begins)})
    placed = {
        key: LineUpEntry(take=body.sources[key].take, part=body.sources[key].part, start=str(on_grid(start, body.fps)),
                         how="notes" if held[key].noted else "timecode", confidence=1.0, group=body.sources[key].group)
        for key, start in starts.items()
    }  # fmt: skip
    placed |= _with_their_takes(body, held, placed, wanted)
    changes += [{"path": path_of("sources", key), "value": entry.plain()} for key, entry in placed.items()]
    return change_document(work, lineup, LineUpBody, version, "line up by timecode", changes)


def _after(begins: Timecode | None, codes: Mapping[str, Timecode]) -> dict[str, Fraction]:
    """Seconds after the first of the counts, or after the beginning that the line-up has."""
    if begins is None:
        return starts_by_timecode(codes)[0]
    starts, _ = starts_by_timecode({"": begins, **codes})
    return {key: at - starts[""] for key, at in starts.items() if key}


def _whole_frame(code: Timecode, fps: Fraction) -> tuple[Timecode, Fraction]:
    """(the frame of the line-up's count in which a recording begins, seconds by which it begins later)."""
    counted = Timecode(0, fps, 0.0, code.drop and fps == code.rate)
    at = moment_at(counted, seconds_of(code))
    whole = replace(at, fraction=0.0)
    return whole, seconds_of(code) - seconds_of(whole)


def _with_their_takes(body: LineUpBody, held: Mapping[str, Recorded], placed: Mapping[str, LineUpEntry], wanted: Collection[str]
                      ) -> dict[str, LineUpEntry]:  # fmt: skip
    """Sounds, which have no count, where their takes have them, unless something better is known."""
    out = {}
    for key in wanted:
        sound = body.sources[key]
        face = placed.get(key_of(sound.take, "face"))
        if (
            sound.part == "sound"
            and key in held
            and key not in placed
            and sound.how in LOOSE
            and face
            and face.at is not None
        ):
            late = Fraction(held[key].take.body.sound_offset).limit_denominator(10**6)
            start = str(on_grid(face.at + late, body.fps))
            out[key] = LineUpEntry(
                take=sound.take, part="sound", start=start, how="take", confidence=1.0, group=sound.group
            )
    return out


def _wanted(body: LineUpBody, keys: Sequence[str]) -> list[str]:
    for key in keys:
        if key not in body.sources:
            raise InputError(f"the line-up has no recording {key!r:.80}")
    return list(keys) or list(body.sources)


def request_placing(work: Work, lineup: str, by: str, keys: Sequence[str] = ()) -> Job:
    """Queues looking for where recordings belong; by: "auto" or one of `WAYS`; keys: those that are compared, all where there are none.
    The first of them that is placed stays. Raises InputError at once for too few or too many.
    """
    checks.one_of("by", by, ("auto", *WAYS))
    with work.store.snapshot() as unit:
        found = document_for(work, unit, lineup, LineUpBody)
    wanted = _wanted(found.body, keys)
    if not 2 <= len(wanted) <= MOST:
        raise InputError(f"{len(wanted)} recordings cannot be compared at once", hint=f"Choose 2 to {MOST}")
    request = {"lineup": lineup, "by": by, "keys": wanted}
    return queue_job(work, found.production, "line-up", f"Line up {found.body.name}"[:120], request)


def place_recordings(work: Work, job: Job, progress: Progress) -> dict[str, Any]:
    """The work itself, in the worker: {"placed", "unsure", "silent": how many recordings were}."""
    lineup, by = job.request["lineup"], job.request["by"]
    with work.store.snapshot() as unit:
        found, held = read_lineup(work, unit, lineup)
    keys = [k for k in job.request["keys"] if k in found.body.sources and k in held]
    keys.sort(key=lambda k: found.body.sources[k].at is None)
    sources = []
    for number, key in enumerate(keys):
        progress(0.3 * number / len(keys), f"reading {held[key].sources[0].name}"[:80])
        sources.append(_source(work, held[key]))
    placed = line_up(sources, by, lambda part: progress(0.3 + 0.65 * part, "comparing"))
    spoken = [p for p in placed[1:] if p.start is not None]
    if not spoken:
        raise InputError("nothing lines these recordings up", hint="Choose others, or another way")
    _keep(work, lineup, keys, placed)
    unsure = sum(p.confidence < CONFIDENT for p in spoken)
    return {"placed": len(spoken), "unsure": unsure, "silent": len(placed) - 1 - len(spoken)}


def _source(work: Work, found: Recorded) -> Source:
    """A recording as it is compared; one of footage or markers that are not solved yet has its count alone."""
    first = found.sources[0]
    if found.part == "body":
        return Source(found.key, found.timecode, body=load_motion(work, first))
    if found.part == "sound":
        return Source(found.key, found.timecode, sound=load_sound(work, first))
    solved = first.kind == "curves"
    return Source(found.key, found.timecode, face=prepare_take(work, found.take.id).raw if solved else None)


def _kept(picture: FitPicture | None) -> dict[str, Any] | None:
    if picture is None:
        return None
    rounded = {name: round(getattr(picture, name), 6) for name in ("first", "step", "offset")}
    return {**rounded, "scores": list(picture.scores)}


def _keep(work: Work, lineup: str, keys: Sequence[str], placed: Sequence[Placed]) -> None:
    """Stores what was found, on the line-up as it is by now."""
    with work.store.snapshot() as unit:
        found = document_for(work, unit, lineup, LineUpBody)
    body = found.body
    base = body.sources[keys[0]].at if keys[0] in body.sources else None
    changes = []
    for key, made in zip(keys, placed, strict=True):
        if key not in body.sources or made.start is None or (made.how == "first" and base is not None):
            continue
        start = on_grid((base or Fraction(0)) + Fraction(made.start), body.fps)
        entry = {**body.sources[key].plain(), "start": str(start), "how": made.how, "confidence": round(made.confidence, 4),
                 "drift": round(made.drift, 3), "against": made.against or None, "picture": _kept(made.picture)}  # fmt: skip
        changes.append({"path": path_of("sources", key), "value": entry})
    change_document(work, lineup, LineUpBody, found.version, "line up by what was recorded", changes)
