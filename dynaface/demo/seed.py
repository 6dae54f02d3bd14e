""" "The Salt Lantern": a short about a harbour at night."""

import json
from pathlib import Path
from typing import Any

import numpy as np

from dynaface.assets import ASSETS
from dynaface.core.documents.model.join import JoinBody
from dynaface.core.documents.model.take import TakeBody
from dynaface.core.dots.dot import parse_dots
from dynaface.core.records.records import Document
from dynaface.core.solve.clip import HEAD, SURE
from dynaface.demo.poses import seed_poses
from dynaface.demo.shots import seed_shots
from dynaface.formats.card_file import read_card
from dynaface.formats.entries import c3d
from dynaface.formats.head_file import general_head
from dynaface.services.cast.carry_sheet import swap_character
from dynaface.services.edit_document import change_document, edit_document
from dynaface.services.footage.dot_layouts import begin_dots
from dynaface.services.footage.performer_cards import store_card
from dynaface.services.footage.seen_landmarks import PART
from dynaface.services.footage.solve_dot_take import solve_dots_of
from dynaface.services.footage.solve_take import store_solve
from dynaface.services.lineup.open_lineup import make_lineup
from dynaface.services.lineup.place_recordings import place_by_timecode
from dynaface.services.markers.marker_layouts import propose_for_take
from dynaface.services.markers.solve_marker_take import solve_markers_of
from dynaface.services.media.uploaded import keep_upload
from dynaface.services.people.manage_productions import begin_production
from dynaface.services.people.sign_in import local_person
from dynaface.services.take.import_take import attach_source, import_character, import_take
from dynaface.services.take.open_take import open_take
from dynaface.services.work import Work, document_for
from dynaface.sims.optical_stage import optical_day

FINE = 100.0  # landmarks of the demo's clips are kept in hundredths
NAME = "The Salt Lantern"
SLATES = {"mara_lamp": "4A / 1", "mara_ferry": "4B / 2", "ivo_hush": "7C / 1"}
NOTES = {
    "mara_lamp": "Director's keeper: the pause before 'boat'. The phone's sound was 9 frames late and was moved.",
    "mara_ferry": "Good smile, a little fast. Sound is late.",
    "ivo_hush": "Eyes first, then the head.",
}

VOICE, VOICE_SLATE = "bench/speech/a_f2.wav", "20 / 1 voice"
VOICE_NOTE = "A voice without a face, for the shot on the quay. She says: A better man would have kept both oars."
SECOND = "4B / 2 second phone"
SECOND_NOTE = "The same moment from the phone on the shelf. It trembles and jumps: for the Tidy desk."
RECORDER_SLATE = "4A / 1 recorder"
RECORDER_NOTE = "The sound recorder on the stage, which has no count. The clap before the line is on the suit as well."
FILMS: dict[str, dict[str, Any]] = {
    "mara": {"performer": "Mara Quill", "rom": "9A / 1", "turn": "9A / 2 turn", "clip": "4A / 1 cam",
             "notes": {"rom": "Range of motion: every expression to its end, then a rest.",
                       "turn": "Neutral, only the head turns.",
                       "clip": "The same moment as the phone's 4A / 1, from the webcam on the desk."}},
    "ivo": {"performer": "Ivo Thackett", "rom": "9B / 1", "turn": "9B / 2 turn", "clip": "7C / 1 hand",
            "notes": {"rom": "Range of motion, by the window.",
                      "turn": "Neutral, only the head turns.",
                      "clip": "Hand-held. He wipes his mouth in the middle: the lips are a guess there."}},
}  # fmt: skip

STAGES: dict[str, dict[str, Any]] = {
    "mara": {"performer": "Mara Quill", "rom": "12A / 1", "line": "12A / 2", "seed": 61, "clip": 2,
             "notes": {"rom": "Optical stage: every expression to its end, for the layout of the day.",
                       "line": "Optical stage. Two markers on the cheek change their names for a moment."}},
    "ivo": {"performer": "Ivo Thackett", "rom": "12B / 1", "line": "12B / 2", "seed": 62, "clip": 3,
            "notes": {"rom": "Optical stage, with the collar's markers on.",
                      "line": "Optical stage. The lip's markers drop out when he looks down."}},
}  # fmt: skip


MOUNTS: dict[str, dict[str, Any]] = {
    "mara": {"performer": "Mara Quill", "rom": "15A / 1 mount", "line": "15A / 2 mount",
             "notes": {"rom": "Head mount with fourteen dots: every expression to its end.", "line": "Head mount. The light swings with the lamp."}},
    "ivo": {"performer": "Ivo Thackett", "rom": "15B / 1 mount", "line": "15B / 2 mount",
            "notes": {"rom": "Head mount with fourteen dots, the range of motion.", "line": "Head mount, not solved yet: the dots are picked."}},
}  # fmt: skip


def seed_demo(work: Work) -> None:
    """Makes the demo production unless there is any production already."""
    with work.store.unit() as unit:
        if unit.people.all_productions():
            return
    work = work.by(local_person(work.store).id)
    production = begin_production(work, NAME).id
    odile, brindle, _ = (
        import_character(work, production, name, _stored(work, production, ASSETS / f"characters/{name.lower()}.glb"))
        for name in ("Odile", "Brindle", "Kettle")
    )
    taken: dict[str, Document[TakeBody]] = {}
    texts: dict[str, str] = {}
    for line in json.loads((ASSETS / "demo/lines.json").read_text()):
        name = line["name"]
        texts[name] = line["text"]
        files = [_stored(work, production, ASSETS / "demo" / f"{name}{end}") for end in (".csv", ".wav", "_body.bvh")]
        take = import_take(work, production, SLATES[name], line["performer"], files)
        worn = _stored(work, production, ASSETS / "demo" / f"{name}_hands.bvh")
        take = taken[name] = attach_source(work, take.id, {**worn, "part": "hands"})
        join = open_take(work, take.id).join
        held = [{"path": field, "value": True} for field in ("feet", "touch")]
        change_document(work, join.id, JoinBody, join.version, "feet stand, hands touch", held)
        changes: list[tuple[str, list[dict[str, object]]]] = [("note", [{"path": "notes", "value": NOTES[name]}])]
        if name == "mara_lamp":
            changes.append(
                ("circle the take", [{"path": "circled", "value": True}, {"path": "character", "value": odile.id}])
            )
            changes.append(("slide the sound", [{"path": "soundOffset", "value": -0.15}]))
        if name != "ivo_hush":
            amounts = {"lips": 0.4, "lids": 0.2, "head": 0.45}
            on = {"path": "tidy/steps/smooth/on", "value": True}
            changes.append(("Smooth: Amount", [on, {"path": "tidy/steps/smooth/amount", "value": amounts}]))
        for version, (label, wanted) in enumerate(changes, take.version):
            edit_document(work, take.id, version, label, wanted)
        if name == "mara_ferry":
            second = [_stored(work, production, ASSETS / "demo" / p) for p in ("mara_second.csv", "mara_second.wav")]
            swap_character(work, take.id, brindle.id)
            made = import_take(work, production, SECOND, line["performer"], second)
            edit_document(work, made.id, made.version, "note", [{"path": "notes", "value": SECOND_NOTE}])
    seed_shots(work, production, taken, {"Odile": odile.id, "Brindle": brindle.id}, texts)
    seed_poses(work, production)
    seed_footage(work, production)
    heard = _heard(work, production, RECORDER_SLATE, ASSETS / "demo/mara_lamp_recorder.wav", RECORDER_NOTE)
    seed_lineup(work, production, taken["mara_lamp"].id, heard.id)
    seed_markers(work, production)
    seed_dots(work, production)
    _heard(work, production, VOICE_SLATE, ASSETS / VOICE, VOICE_NOTE)


def _heard(work: Work, production: str, slate: str, path: Path, note: str) -> Document[TakeBody]:
    """A take of Mara's that is only heard."""
    take = import_take(work, production, slate, "Mara Quill", [_stored(work, production, path)])
    edit_document(work, take.id, take.version, "note", [{"path": "notes", "value": note}])
    return take


def seed_footage(work: Work, production: str) -> None:
    """Each performer filmed: range of motion and head turn with the card measured from them, and a line solved with it.

    What tools/demo/footage.py found in the clips is brought along, so that nothing has to be looked through at the start.
    """
    for name, film in FILMS.items():
        known = np.load(ASSETS / f"demo/{name}_footage.npz", allow_pickle=False)
        takes = {p: _filmed(work, production, name, film, p, known[p]) for p in ("rom", "turn", "clip")}
        named = json.loads((ASSETS / f"demo/{name}_samples.json").read_text())
        card = read_card((ASSETS / f"demo/{name}_card.json").read_bytes(), general_head())
        day = f"{film['performer']}, first day"
        body = {"name": day, "performer": film["performer"], "day": "2026-11-02",
                "footage": takes["rom"].body.sources.footage, **named}  # fmt: skip
        medium = store_card(work, production, card, body)[1]
        with work.store.unit() as unit:
            source = unit.sources.get(takes["clip"].body.sources.footage or "")
        assert source is not None
        confidence = known["confidence"].astype(np.float32)
        about = {"card": day, "cardMedium": medium, "by": "Animator", "first": 0, "frames": len(confidence),
                 "moves": HEAD, "tacks": 0, "confidence": round(float(confidence.mean()), 4),
                 "unsure": int((confidence.mean(axis=1) < SURE).sum()), "lost": int(np.isnan(known["poses"][:, 0]).sum())}  # fmt: skip
        table = (ASSETS / f"demo/{name}_clip.csv").read_bytes()
        store_solve(work, takes["clip"].id, source, table, confidence, known["poses"], about)
        for part, note in film["notes"].items():
            with work.store.unit() as unit:
                version = document_for(work, unit, takes[part].id, TakeBody).version
            edit_document(work, takes[part].id, version, "note", [{"path": "notes", "value": note}])


def seed_lineup(work: Work, production: str, lamp: str, recorder: str) -> None:
    """What the phone, the body suit, the webcam and the sound recorder have of one moment; the last two, which have no count, are still to be
    compared.
    """
    with work.store.unit() as unit:
        webcam = next(
            t.id for t in unit.documents.of_kind(production, TakeBody) if t.body.slate == FILMS["mara"]["clip"]
        )
    made = make_lineup(work, production, "The lamp, every recording", [lamp, webcam, recorder])
    place_by_timecode(work, made.id, made.version)


def _filmed(
    work: Work, production: str, name: str, film: dict[str, Any], part: str, landmarks: np.ndarray
) -> Document[TakeBody]:
    names = [f"{name}_{part}.mp4", *([f"{name}_clip.wav"] if part == "clip" else [])]
    files = [_stored(work, production, ASSETS / f"demo/{n}") for n in names]
    take = import_take(work, production, film[part], film["performer"], files, prepared=True)
    with work.store.unit() as unit:
        # The demo's clips are small and have short groups of pictures: they are their own proxies.
        footage = take.body.sources.footage or ""
        unit.sources.note(footage, proxy=files[0]["media"])
        unit.sources.write_block(footage, PART, landmark_rows(landmarks))
    return take


def landmark_rows(kept: np.ndarray) -> np.ndarray:
    """(frames, n) as footage keeps its landmarks, NaN where no face was seen, from what the demo's files hold."""
    rows = kept.astype(np.float32) / FINE
    rows[~kept.any(axis=1)] = np.nan
    return rows


def _stored(work: Work, production: str, path: Path) -> dict[str, str]:
    return {"media": keep_upload(work, production, path.read_bytes()), "name": path.name}


def seed_markers(work: Work, production: str) -> None:
    """Each performer on the optical stage: a range of motion with the day's layout, and a line solved with it."""
    for name, stage in STAGES.items():
        made = optical_day(stage["seed"], stage["clip"])
        takes = {}
        for part, markers in made.takes.items():
            file = {"media": keep_upload(work, production, c3d.write(markers)), "name": f"{name}_stage_{part}.c3d"}
            takes[part] = import_take(work, production, stage[part], stage["performer"], [file])
            note = [{"path": "notes", "value": stage["notes"][part]}]
            edit_document(work, takes[part].id, takes[part].version, "note", note)
        layout = propose_for_take(work, takes["rom"].id, f"{stage['performer']}, stage day", made.neutral)
        edit_document(work, layout.id, layout.version, "samples", [{"path": "samples", "value": made.samples}])
        solve_markers_of(work, takes["line"].id, layout.id, lambda part, words: None)


def seed_dots(work: Work, production: str) -> None:
    """Each performer with colour dots before a camera on a head mount; Mara's line is solved, Ivo's waits to be."""
    for name, mount in MOUNTS.items():
        takes = {}
        for part in ("rom", "line"):
            file = _stored(work, production, ASSETS / f"demo/{name}_mount_{part}.mp4")
            takes[part] = import_take(work, production, mount[part], mount["performer"], [file])
            note = [{"path": "notes", "value": mount["notes"][part]}]
            edit_document(work, takes[part].id, takes[part].version, "note", note)
        begun = begin_dots(work, takes["rom"].id, f"{mount['performer']}, mount")
        picked = parse_dots(json.loads((ASSETS / f"demo/{name}_dots.json").read_text())).describe()
        changes = [{"path": k, "value": picked[k]} for k in ("dots", "fov", "neutral", "samples")]
        edit_document(work, begun.id, begun.version, "pick the dots", changes)
        if name == "mara":
            solve_dots_of(work, takes["line"].id, begun.id, lambda part, words: None)
