"""The demo's shots: "Ferry landing" with two roles, and one in blocking."""

from fractions import Fraction
from typing import Any

from dynaface.core.documents.model.shot import LayerBody, ShotBody
from dynaface.core.documents.model.take import TakeBody
from dynaface.core.records.records import Document
from dynaface.services.edit_document import change_document
from dynaface.services.shot.make_shot import add_layer, add_to_reel, make_shot
from dynaface.services.work import Work

LISTENS = ("0", "7/5")  # seconds of Ivo's take in which he listens
PHRASE, WORDS = (70, 130), (150, 190)  # frames of the first line: what is lifted, and where the capture is weakened
POSES = {
    "jawOpen": (0.05, 0.4, 0.1),
    "mouthSmileLeft": (0.0, 0.1, 0.5),
    "browInnerUp": (0.5, 0.1, 0.0),
    "headTurn": (0.0, 14.0, -8.0),
}


def seed_shots(work: Work, production: str, takes: dict[str, Document[TakeBody]], characters: dict[str, str]) -> None:
    """takes by the name of their files; characters: name -> id."""
    _ferry_landing(work, production, takes, characters)
    _blocking(work, production, takes, characters)


def _put(path: str, value: Any) -> dict[str, Any]:
    return {"path": path, "value": value}


def _edit(work: Work, shot: Document[ShotBody], label: str, *changes: dict[str, Any]) -> Document[ShotBody]:
    return change_document(work, shot.id, ShotBody, shot.version, label, changes)


def _layer(
    work: Work, shot: str, role: str, name: str, does: str, regions: list[str], label: str, *changes: dict[str, Any]
) -> None:
    made = add_layer(work, shot, role, name, does, regions)
    change_document(work, made.id, LayerBody, made.version, label, changes)


def _ferry_landing(
    work: Work, production: str, takes: dict[str, Document[TakeBody]], characters: dict[str, str]
) -> None:
    lines = [takes[n].id for n in ("mara_lamp", "ivo_hush", "mara_ferry")]
    shot = make_shot(work, production, "Ferry landing", "60", lines)
    odile, brindle = shot.body.ordered
    mine = sorted(shot.body.roles[odile].placements, key=lambda k: Fraction(shot.body.roles[odile].placements[k].start))
    listens = add_to_reel(work, takes["ivo_hush"].id, *LISTENS, "Brindle_listens")
    stretch = Fraction(LISTENS[1]) - Fraction(LISTENS[0])
    silence = Fraction(shot.body.roles[odile].placements[mine[0]].last) - Fraction(1, 4)
    again = {"clip": listens.id, "start": "0", "first": LISTENS[0], "last": LISTENS[1], "repeats": str(silence / stretch),
             "seam": "1/3", "sound": False}  # fmt: skip
    weak = {"value": 1.0, "keys": {f"k{n}": [f, v, 0.0, 0.0, "linear"] for n, (f, v) in enumerate(
        ((WORDS[0] - 10, 1.0), (WORDS[0], 0.6), (WORDS[1], 0.6), (WORDS[1] + 10, 1.0)))}}  # fmt: skip
    shot = _edit(
        work, shot, "set the scene",
        _put("timecode", "10:04:10:00"),
        _put(f"roles/{odile}/character", characters["Odile"]),
        _put(f"roles/{brindle}/character", characters["Brindle"]),
        _put(f"roles/{odile}/turn", 8.0),
        _put(f"roles/{brindle}/turn", -12.0),
        _put(f"roles/{brindle}/placements/listens", again),
        _put(f"roles/{odile}/capture/lips", weak),
        _put(f"roles/{odile}/capture/jaw", weak),
    )  # fmt: skip
    lift = {"first": PHRASE[0], "last": PHRASE[1], "leadIn": 10, "leadOut": 14,
            "offset": {"mouthLowerDownLeft": -0.12, "mouthLowerDownRight": -0.12, "mouthSmileLeft": 0.18, "mouthSmileRight": 0.18}}  # fmt: skip
    _layer(work, shot.id, odile, "warmer at 'burns low'", "add", ["lips"], "lift the lip", _put("spans/lift", lift))
    blinks = {"maker": "blinks", "rank": 1.0, "captured": "replace", "turns": "yes"}
    _layer(work, shot.id, odile, "blinks", "add", [], "replace the captured blinks", _put("makers/blinks", blinks))
    waits = {"maker": "alive", "rank": 1.0, "sway": 0.9}
    _layer(work, shot.id, odile, "while he speaks", "add", [], "keep her alive", _put("makers/alive", waits))
    chance = {"maker": "blinks", "rank": 1.0, "rate": 14.0, "seed": 3.0, "length": 360.0}
    _layer(work, shot.id, brindle, "blinks", "add", [], "blinks by chance", _put("makers/blinks", chance))


def _blocking(work: Work, production: str, takes: dict[str, Document[TakeBody]], characters: dict[str, str]) -> None:
    shot = make_shot(work, production, "Moorings, blocking", "24", [takes["ivo_hush"].id])
    (role,) = shot.body.ordered
    shot = _edit(work, shot, "set the scene", _put(f"roles/{role}/character", characters["Brindle"]))
    third = shot.body.frames / 3
    keys = {
        c: {f"k{n}": [round(n * third), v, 0.0, 0.0, "stepped"] for n, v in enumerate(values)}
        for c, values in POSES.items()
    }
    _layer(
        work,
        shot.id,
        role,
        "poses",
        "replace",
        [],
        "block the poses",
        *(_put(f"keys/{c}", table) for c, table in keys.items()),
    )
