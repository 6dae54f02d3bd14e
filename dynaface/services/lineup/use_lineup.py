"""What a line-up is made for: bodies and sounds of its takes where they belong, and a shot in which the takes lie as they were played."""

from fractions import Fraction
from typing import Any
from uuid import uuid4

from dynaface.core.clock.rates import format_rate
from dynaface.core.documents.model.lineup import LineUpBody, key_of
from dynaface.core.documents.model.record import parse
from dynaface.core.documents.model.shot import ShotBody
from dynaface.core.documents.model.take import TakeBody
from dynaface.core.errors import InputError
from dynaface.core.records.records import Document
from dynaface.core.sync.moment import moment_at
from dynaface.services.edit_document import change_document
from dynaface.services.lineup.open_lineup import read_lineup
from dynaface.services.lineup.recordings import Recorded
from dynaface.services.lineup.take_drift_out import LEAST as LEAST_DRIFT
from dynaface.services.lineup.take_drift_out import drift_of, request_drift_out
from dynaface.services.shot.make_shot import cut_clip, new_role, placed
from dynaface.services.take.place_body import place_body
from dynaface.services.take.prepare_take import PreparedTake, prepare_take
from dynaface.services.work import Work, add_document, allow

FARTHEST = 60.0  # seconds that a take's sound lies from its face
LEAST = 0.0005  # seconds and frames below which nothing is moved


def use_lineup(work: Work, lineup: str) -> dict[str, Any]:
    """Each take's body and sound where the line-up has them against its face: {"changed": what was moved, "left": what was not, and why}.
    Every change is one step of the history of its take; sounds that drift are put right by the worker.
    """
    with work.store.snapshot() as unit:
        found, held = read_lineup(work, unit, lineup)
    changed: list[str] = []
    left: list[str] = []
    starts = {key: e.at for key, e in found.body.sources.items() if e.at is not None and key in held}
    for key in starts:
        one = held[key]
        face = starts.get(key_of(one.take.id, "face"))
        if one.part == "face":
            continue
        if face is None:
            left.append(f"{one.take.body.slate}: nothing says where its face begins")
            continue
        if one.part == "sound" and abs(drift_of(found.body, one.take.id)) >= LEAST_DRIFT:
            request_drift_out(work, found, one.take)
            changed.append(
                f"{one.take.body.slate}: its sound, {drift_of(found.body, one.take.id):+.0f} ppm, is being put on its face's clock"
            )
        moves = _move_body if one.part == "body" else _move_sound
        said, moved = moves(work, one, starts[key] - face)
        (changed if moved else left).append(f"{one.take.body.slate}: {said}")
    return {"changed": changed, "left": left}


def _move_body(work: Work, one: Recorded, after: Fraction) -> tuple[str, bool]:
    if one.take.body.sources.curves is None:
        return "its face has no curves yet", False
    if not place_body(work, one.take.id, float(after), "place the body by a line-up"):
        return "its body is there already", False
    return f"body {float(after):+.3f} s from its face", True


def _move_sound(work: Work, one: Recorded, after: Fraction) -> tuple[str, bool]:
    if abs(after) > FARTHEST:
        return f"its sound lies {float(after):+.1f} s away; at most {FARTHEST:g} s", False
    if abs(float(after) - one.take.body.sound_offset) < LEAST:
        return "its sound is there already", False
    change = {"path": "soundOffset", "value": round(float(after), 5)}
    change_document(work, one.take.id, TakeBody, one.take.version, "place the sound by a line-up", [change])
    return f"sound {float(after):+.3f} s from its face", True


def shot_of_lineup(work: Work, lineup: str, name: str) -> Document[ShotBody]:
    """A shot that begins with the first face of the line-up, in its count, with every face that is placed as a clip of its performer's
    role. Takes of one performer that overlap lie on lanes above each other. Raises InputError where no face with curves is placed.
    """
    with work.store.snapshot() as unit:
        found, held = read_lineup(work, unit, lineup)
    faces = _faces(work, found, held)
    if not faces:
        raise InputError("no face with curves is placed in this line-up", hint="Line up first")
    begins = min(at for at, _ in faces)
    roles: dict[str, Any] = {}
    ends: dict[tuple[str, int], Fraction] = {}
    with work.store.unit() as unit:
        allow(unit, found.production, work.person)
        for at, take in sorted(faces, key=lambda f: f[0]):
            character = take.snapshot.documents.character
            role = new_role(roles, take.take.body.performer, character.id if character else None)
            clip = cut_clip(unit, take)
            start = at - begins
            lane = next(n for n in range(len(faces) + 1) if ends.get((role, n), start) <= start)
            ends[role, lane] = start + Fraction(clip.body.last) - Fraction(clip.body.first)
            entry = placed(clip, start, take)
            roles[role]["placements"][uuid4().hex[:12]] = entry | {"lane": lane}
        body = {"name": name, "rate": format_rate(found.body.fps), "length": str(max(ends.values())), "roles": roles,
                "timecode": _label(found.body, begins)}  # fmt: skip
        return add_document(unit, found.production, parse(ShotBody, body, "the shot"))


def _faces(work: Work, found: Document[LineUpBody], held: dict[str, Recorded]) -> list[tuple[Fraction, PreparedTake]]:
    """(start, take) of every placed face that has curves."""
    return [
        (entry.at, prepare_take(work, held[key].take.id))
        for key, entry in found.body.sources.items()
        if entry.part == "face" and entry.at is not None and key in held and held[key].sources[0].kind == "curves"
    ]


def _label(body: LineUpBody, begins: Fraction) -> str:
    return str(moment_at(body.begins, begins)) if body.begins else ""
