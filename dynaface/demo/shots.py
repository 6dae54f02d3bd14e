"""The demo's shots: "Ferry landing" with two roles, and one in blocking."""

from dataclasses import replace
from fractions import Fraction
from typing import Any

from dynaface.assets import ASSETS
from dynaface.core.documents.model.layer import LayerBody
from dynaface.core.documents.model.shot import ShotBody
from dynaface.core.documents.model.take import TakeBody
from dynaface.core.records.records import Document
from dynaface.pipelines.progress import quiet
from dynaface.services.edit_document import change_document
from dynaface.services.media.uploaded import keep_upload
from dynaface.services.shot.bring_prop import bring_prop
from dynaface.services.shot.evaluate_shot import prepare_role
from dynaface.services.shot.make_shot import add_layer, add_to_reel, make_shot
from dynaface.services.shot.open_shot import open_shot
from dynaface.services.shot.surroundings import words_of_role
from dynaface.services.speech.find_words import keep_words, listen, sound_of
from dynaface.services.speech.lead_words import Leading, lead_capture, lead_words
from dynaface.services.work import Work

LISTENS = ("0", "7/5")  # seconds of Ivo's take in which he listens
PHRASE = (70, 130)  # frames of the first line in which the lip is lifted
PASSED = (575, 600)  # frames in which both hold the lantern
FLAME = [0.0, -0.2, 0.0]  # metres of the lantern from the middle of its handle
LEADS = "burns"  # the word of the first line that leads
AIMS: dict[str, dict[str, Any]] = {
    "ferry": {"name": "ferry far out", "lies": "point", "at": [-4.0, 1.3, 9.0]},
    "camera": {"name": "camera", "lies": "camera"},
}
POSES = {
    "jawOpen": (0.05, 0.4, 0.1),
    "mouthSmileLeft": (0.0, 0.1, 0.5),
    "browInnerUp": (0.5, 0.1, 0.0),
    "headTurn": (0.0, 14.0, -8.0),
}


def seed_shots(
    work: Work, production: str, takes: dict[str, Document[TakeBody]], characters: dict[str, str], texts: dict[str, str]
) -> None:
    """takes and texts by the name of their files; characters: name -> id."""
    for name, text in texts.items():
        take, sound = sound_of(work, takes[name].id)
        keep_words(work, take, sound, listen(work, sound, text, "en", quiet), text, "en")
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
             "seam": "1/3", "sound": False, "shows": "both"}  # fmt: skip
    (his,) = shot.body.roles[brindle].placements
    shot = _edit(
        work, shot, "set the scene",
        _put("timecode", "10:04:10:00"),
        _put(f"roles/{odile}/character", characters["Odile"]),
        _put(f"roles/{brindle}/character", characters["Brindle"]),
        _put(f"roles/{odile}/turn", 8.0),
        # She walks up to where she says her line.
        _put(f"roles/{odile}/at", [0.0, 0.0, -1.1]),
        _put(f"roles/{odile}/placements/{mine[1]}/follows", True),
        _put(f"roles/{brindle}/placements/{his}/follows", True),
        _put(f"roles/{brindle}/turn", -10.0),
        _put(f"roles/{brindle}/at", [0.68, 0.0, -0.02]),
        _put(f"roles/{brindle}/placements/listens", again),
        *(_put(f"aims/{key}", aim) for key, aim in AIMS.items()),
        _put("aims/brindle", {"name": "Brindle's eyes", "lies": "eyes", "role": brindle}),
        _put("aims/odile", {"name": "Odile's eyes", "lies": "eyes", "role": odile}),
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
    _looks(work, shot.id, odile, [[0, "captured"], [64, "lantern"], [150, "held"], [236, "ferry"], [330, "captured"]])
    _looks(work, shot.id, brindle, [[0, "odile"], [96, "camera"], [190, "odile"], [330, "captured"]])
    _one_word_leads(work, shot, odile)
    _lantern(work, open_shot(work, shot.id).shot, odile, brindle)


def _lantern(work: Work, shot: Document[ShotBody], odile: str, brindle: str) -> None:
    """She comes with the lantern, and he takes it from her while he speaks."""
    data = (ASSETS / "props/lantern.glb").read_bytes()
    brought = {"media": keep_upload(work, shot.production, data), "name": "lantern.glb"}
    shot = bring_prop(work, shot.id, shot.version, brought)
    (key,) = shot.body.props
    gives = {"role": odile, "side": "Left", "first": 0, "last": PASSED[1]}
    takes = {
        "role": brindle,
        "side": "Right",
        "first": PASSED[0],
        "last": shot.body.frames - 1,
        "at": [0.05, -0.03, 0.0],
    }
    looked_at = {"name": "lantern", "lies": "prop", "prop": key, "at": FLAME}
    _edit(work, shot, "pass the lantern", _put(f"props/{key}/hangs", True), _put("aims/lantern", looked_at),
          _put(f"props/{key}/holds/gives", gives), _put(f"props/{key}/holds/takes", takes))  # fmt: skip


def _looks(work: Work, shot: str, role: str, looks: list[list[Any]]) -> None:
    table = {f"l{n}": row for n, row in enumerate(looks)}
    gaze = {"maker": "gaze", "rank": 1.0, "looks": table, "head": 0.25}
    _layer(work, shot, role, "looks", "add", [], "look at aims", _put("makers/gaze", gaze))


def _one_word_leads(work: Work, shot: Document[ShotBody], role: str) -> None:
    """The made mouth says one word, and the capture goes back under it."""
    found = prepare_role(work, shot.id, role).snapshot.documents
    word = next(w for w in words_of_role(found, role) if w.word == LEADS)
    rate = float(found.shot.body.fps)
    within = (round(word.first * rate), round(word.last * rate))
    under = Leading(0.15, 0.1, 0.12, "word", within)
    lead_words(work, shot.id, found.shot.version, role, ["lips", "jaw"], under)
    layer = add_layer(work, shot.id, role, f"says '{LEADS}'", "add", ["lips", "jaw", "tongue"])
    says = {"maker": "speech", "rank": 1.0, "captured": "added to it"}
    label = f"say '{LEADS}'"
    made = change_document(
        work, layer.id, LayerBody, layer.version, label, [_put("makers/speech", says), _put("weight/value", 0.0)]
    )
    lead_capture(work, made.id, made.version, replace(under, low=0.9))


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
