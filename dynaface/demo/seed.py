""" "The Salt Lantern": a short about a harbour at night."""

import json
from pathlib import Path

import numpy as np

from dynaface.core.records.records import Document
from dynaface.formats.card_file import read_card
from dynaface.formats.head_file import general_head
from dynaface.services.edit_document import edit_document
from dynaface.services.import_take import import_character, import_take
from dynaface.services.manage_productions import begin_production
from dynaface.services.open_take import open_take
from dynaface.services.performer_cards import store_card
from dynaface.services.prepare_footage import PART
from dynaface.services.sign_in import local_person
from dynaface.services.solve_take import store_solve
from dynaface.services.work import Work, document_for

ASSETS = Path(__file__).parents[2] / "assets"
FINE = 100.0  # landmarks of the demo's clips are kept in hundredths
NAME = "The Salt Lantern"
SLATES = {"mara_lamp": "4A / 1", "mara_ferry": "4B / 2", "ivo_hush": "7C / 1"}
NOTES = {
    "mara_lamp": "Director's keeper: the pause before 'boat'. The phone's sound was 9 frames late and was moved.",
    "mara_ferry": "Good smile, a little fast. Sound is late.",
    "ivo_hush": "Eyes first, then the head.",
}


def seed_demo(work: Work) -> None:
    """Makes the demo production unless there is any production already."""
    with work.store.unit() as unit:
        if unit.people.all_productions():
            return
    work = work.by(local_person(work.store).id)
    production = begin_production(work, NAME).id
    odile = import_character(work, production, "Odile", _stored(work, ASSETS / "characters/odile.glb"))
    for line in json.loads((ASSETS / "demo/lines.json").read_text()):
        name = line["name"]
        paths = [f"{name}.csv", f"{name}.wav", *([f"{name}_body.bvh"] if name == "mara_lamp" else [])]
        files = [_stored(work, ASSETS / "demo" / p) for p in paths]
        take = import_take(work, production, SLATES[name], line["performer"], files)
        changes: list[tuple[str, list[dict[str, object]]]] = [("note", [{"path": "notes", "value": NOTES[name]}])]
        if name == "mara_lamp":
            changes.append(
                ("circle the take", [{"path": "circled", "value": True}, {"path": "character", "value": odile.id}])
            )
            changes.append(("slide the sound", [{"path": "soundOffset", "value": -0.15}]))
        if name != "ivo_hush":
            amounts = {"lips": 0.4, "lids": 0.2, "head": 0.45}
            changes.append(("Smooth: Amount", [{"path": "tidy/steps/smooth/amount", "value": amounts}]))
        for version, (label, wanted) in enumerate(changes, take.version):
            edit_document(work, take.id, version, label, wanted)
        if name == "mara_lamp":
            open_take(work, take.id)
    seed_footage(work, production)


def seed_footage(work: Work, production: str) -> None:
    """Mara before a webcam: a range of motion with the card measured from it, and her first line solved with that card.

    What tools/demo/footage.py found in the clips is brought along, so that nothing has to be looked through at the start.
    """
    known = np.load(ASSETS / "demo/mara_footage.npz", allow_pickle=False)
    rom = _filmed(work, production, "9A / 1", "mara_rom", known["rom"])
    named = json.loads((ASSETS / "demo/mara_samples.json").read_text())
    card = read_card((ASSETS / "demo/mara_card.json").read_bytes(), general_head())
    body = {"name": "Mara Quill, first day", "performer": "Mara Quill", "day": "2026-11-02",
            "footage": rom.body["sources"]["footage"], **named}  # fmt: skip
    store_card(work, production, card, body)
    clip = _filmed(work, production, "4A / 1 cam", "mara_webcam", known["webcam"], "mara_webcam.wav")
    with work.store.unit() as unit:
        source = unit.sources.get(clip.body["sources"]["footage"])
    assert source is not None
    table = (ASSETS / "demo/mara_webcam.csv").read_bytes()
    confidence = known["confidence"].astype(np.float32)
    about = {"card": body["name"], "by": "Animator", "first": 0, "frames": len(confidence),
             "confidence": round(float(confidence.mean()), 4), "unsure": 0, "lost": 0}  # fmt: skip
    store_solve(work, clip.id, source, table, confidence, about)
    edits = ((rom.id, "Range of motion: every expression to its end, then a rest."),
             (clip.id, "The same moment as the phone's 4A / 1, from the webcam on the desk."))  # fmt: skip
    for take, note in edits:
        with work.store.unit() as unit:
            version = document_for(work, unit, take, "take").version
        edit_document(work, take, version, "note", [{"path": "notes", "value": note}])


def _filmed(work: Work, production: str, slate: str, name: str, landmarks: np.ndarray, sound: str = "") -> Document:
    files = [_stored(work, ASSETS / f"demo/{n}") for n in (f"{name}.mp4", sound) if n]
    take = import_take(work, production, slate, "Mara Quill", files, prepared=True)
    footage = take.body["sources"]["footage"]
    with work.store.unit() as unit:
        # The demo's clips are small and have short groups of pictures: they are their own proxies.
        unit.sources.note(footage, proxy=files[0]["media"])
        unit.sources.write_block(footage, PART, landmarks.astype(np.float32) / FINE)
    return take


def _stored(work: Work, path: Path) -> dict[str, str]:
    media, _ = work.media.put_bytes(path.read_bytes())
    return {"media": media, "name": path.name}
