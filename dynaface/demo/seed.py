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
    "mara_lamp": "Director's keeper: the pause before 'boat'. Sound is late on this phone.",
    "mara_ferry": "Good smile, a little fast.",
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
        edit_document(work, take.id, take.version, "note", [{"path": "notes", "value": NOTES[name]}])
        if name == "mara_lamp":
            keep: list[dict[str, object]] = [
                {"path": "circled", "value": True},
                {"path": "character", "value": odile.id},
            ]
            edit_document(work, take.id, take.version + 1, "circle the take", keep)
            open_take(work, take.id)


def _stored(work: Work, path: Path) -> dict[str, str]:
    media, _ = work.media.put_bytes(path.read_bytes())
    return {"media": media, "name": path.name}
