""" "The Salt Lantern": a short about a harbour at night."""

import json
from pathlib import Path

from dynaface.services.edit_document import edit_document
from dynaface.services.import_take import import_character, import_take
from dynaface.services.manage_productions import begin_production
from dynaface.services.open_take import open_take
from dynaface.services.sign_in import local_person
from dynaface.services.work import Work

ASSETS = Path(__file__).parents[2] / "assets"
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


def _stored(work: Work, path: Path) -> dict[str, str]:
    media, _ = work.media.put_bytes(path.read_bytes())
    return {"media": media, "name": path.name}
