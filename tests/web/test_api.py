"""The API over HTTP: statuses, headers, binary bundles, and that nobody gets past the door."""

import struct
from uuid import uuid4

import numpy as np
import orjson
import pytest

from dynaface.core.evaluate.difference import patched
from dynaface.services.people.sign_in import add_account
from dynaface.web.app import make_app
from tests.makers import table, tone

HEADERS = {"X-Dynaface": "1"}


@pytest.fixture(scope="module")
def client(base, settings):
    return make_app(base, settings).test_client()


@pytest.fixture(scope="module")
def production(client):
    return client.post("/api/productions", json={"name": "By HTTP"}, headers=HEADERS).json["id"]


def upload(client, production, data):
    return client.post(f"/api/productions/{production}/uploads", data=data, headers=HEADERS).json["media"]


@pytest.fixture(scope="module")
def take(client, production):
    files = [{"media": upload(client, production, table()), "name": "a.csv"}]
    return client.post(
        f"/api/productions/{production}/takes", json={"slate": "1", "performer": "", "files": files}, headers=HEADERS
    ).json


def unpack(raw):
    assert raw[:4] == b"DYNB"
    size = struct.unpack_from("<I", raw, 4)[0]
    head, at, arrays = orjson.loads(raw[8 : 8 + size]), 8 + size, {}
    for entry in head["arrays"]:
        count = int(np.prod(entry["shape"]))
        arrays[entry["name"]] = np.frombuffer(raw, "<" + entry["type"], count, at).reshape(entry["shape"])
        at += count * 4
    assert at == len(raw)
    return head, arrays


def test_curves_come_as_binary(client, take):
    answer = client.post(
        f"/api/takes/{take['id']}/evaluate", json={"pieces": [{"part": "raw"}, {"part": "tidied"}]}, headers=HEADERS
    )
    head, arrays = unpack(answer.data)
    assert arrays["raw"].shape == (60, 52)
    assert head["rate"] == "60"


def test_of_a_table_that_is_held_only_what_changed_comes(client, take):
    def ask(have, **wish):
        pieces = [{"part": "tidied", "have": have}]
        return unpack(
            client.post(f"/api/takes/{take['id']}/evaluate", json={"pieces": pieces, **wish}, headers=HEADERS).data
        )

    head, arrays = ask("")
    whole, piece = arrays["tidied"], head["pieces"][0]
    assert (piece["of"], piece["count"], piece["columns"]) == ("", 60, head["channels"])
    again, nothing = ask(piece["tag"])
    assert (again["pieces"][0]["of"], nothing["tidied runs"].shape) == (piece["tag"], (0, 3))
    wish = {"take": [{"path": "tidy/steps/strength/gain", "value": {"jawOpen": 0.5}}]}
    changed, came = ask(piece["tag"], **wish)
    assert {int(run[0]) for run in came["tidied runs"]} == {head["channels"].index("jawOpen")}
    made = patched(whole[:, :, None], came["tidied runs"], came["tidied"])[:, :, 0]
    np.testing.assert_array_equal(made, ask("", **wish)[1]["tidied"])
    assert ask("no such tag", **wish)[0]["pieces"][0]["of"] == ""
    assert changed["pieces"][0]["tag"] != piece["tag"]


def test_a_span_of_frames_is_the_same_as_in_the_whole(client, take):
    piece = {"part": "tidied", "first": 20, "last": 29}
    address = f"/api/takes/{take['id']}/evaluate"
    head, part = unpack(client.post(address, json={"pieces": [piece]}, headers=HEADERS).data)
    whole = unpack(client.post(address, json={"pieces": [{"part": "tidied"}]}, headers=HEADERS).data)[1]
    assert (head["pieces"][0]["first"], head["pieces"][0]["count"]) == (20, 10)
    np.testing.assert_array_equal(part["tidied"], whole["tidied"][20:30])


def test_an_edit_an_undo_and_a_conflict(client, take):
    address = f"/api/documents/{take['id']}/edits"
    edit = {"version": 1, "label": "note", "changes": [{"path": "notes", "value": "hello"}]}
    assert client.post(address, json=edit, headers=HEADERS).json["body"]["notes"] == "hello"
    answer = client.post("/api/undo", json={"documents": [take["id"]]}, headers=HEADERS)
    assert answer.json["label"] == "note"
    assert client.post("/api/history", json={"documents": [take["id"]]}, headers=HEADERS).json == {
        "undo": "",
        "redo": "note",
    }


@pytest.mark.parametrize(
    ("method", "path", "body", "status"),
    [
        ("post", "/api/documents/{take}/edits", {"version": 1, "label": "x", "changes": [{"path": "slate", "value": ""}]}, 422),
        ("post", "/api/documents/{take}/edits", {"version": 1, "label": "", "changes": []}, 422),
        ("post", "/api/documents/{take}/edits", {"nonsense": 1}, 422), ("post", "/api/productions", {"name": ""}, 422),
        ("get", "/api/takes/" + str(uuid4()), None, 404), ("get", "/api/takes/not-an-id", None, 404), ("get", "/api/nothing", None, 404),
        ("post", "/api/takes/{take}/evaluate", {"parts": ["everything"]}, 422), ("post", "/api/takes/{take}/sync", None, 422),
        ("post", "/api/productions/{production}/takes", {"slate": "x", "performer": "", "files": [{"media": "../x", "name": "a"}]}, 422),
        ("post", "/api/productions/{production}/inspections", {"media": "0" * 64, "name": "a.csv"}, 404),
        ("get", "/api/handovers/" + str(uuid4()) + "/files/0", None, 404), ("post", "/api/jobs/" + str(uuid4()) + "/cancel", None, 404),
    ],
)  # fmt: skip
def test_bad_requests_have_a_status_and_words(client, take, production, method, path, body, status):
    address = path.format(take=take["id"], production=production)
    answer = client.open(address, method=method.upper(), json=body, headers=HEADERS)
    assert answer.status_code == status
    assert answer.json["message"]


def test_a_bad_file_is_told_with_its_place(client, production):
    media = upload(client, production, b"time,jawOpen\n0,0.1\n0.1,inf\n")
    answer = client.post(
        f"/api/productions/{production}/inspections", json={"media": media, "name": "bad.csv"}, headers=HEADERS
    )
    assert answer.status_code == 422
    assert answer.json["message"] == "infinite value"
    assert answer.json["where"] == "line 3, column 'jawOpen'"


def test_a_page_of_another_origin_cannot_change_anything(client, production):
    answer = client.post("/api/productions", json={"name": "From elsewhere"})
    assert answer.status_code == 403


def test_sound_can_be_fetched_in_ranges(client, production, take):
    from dynaface.formats.entries import wav

    media = upload(client, production, wav.write(tone(0.5)))
    made = client.post(f"/api/takes/{take['id']}/sources", json={"media": media, "name": "a.wav"}, headers=HEADERS).json
    address = f"/api/sources/{made['body']['sources']['sound']}/media"
    part = client.get(address, headers={"Range": "bytes=0-3"})
    assert (part.status_code, part.data) == (206, b"RIFF")


def test_the_description_is_there_for_programs_and_people(client):
    assert "/api/takes/{take}" in client.get("/api/openapi.json").json["paths"]
    assert b"POST /api/undo" in client.get("/api/docs").data


def test_pages_are_served_with_a_strict_policy(client):
    answer = client.get("/")
    assert answer.status_code == 200
    assert "default-src 'self'" in answer.headers["Content-Security-Policy"]
    assert client.get("/../pyproject.toml").status_code in (200, 404)
    assert b"dynaface-app" not in client.get("/assets/../../pyproject.toml").data


def test_with_accounts_one_must_sign_in(base, settings):
    from dataclasses import replace

    name = f"Lamp keeper {uuid4().hex[:6]}"
    add_account(base.store, name, "a long password")
    guarded = make_app(base, replace(settings, accounts="password")).test_client()
    assert guarded.get("/api/productions").status_code == 401
    assert guarded.get("/api/session").status_code == 401
    assert (
        guarded.post("/api/session", json={"name": name, "password": "wrong password"}, headers=HEADERS).status_code
        == 403
    )
    assert (
        guarded.post("/api/session", json={"name": name, "password": "a long password"}, headers=HEADERS).status_code
        == 200
    )
    assert guarded.get("/api/productions").json == []
    guarded.delete("/api/session", headers=HEADERS)
    assert guarded.get("/api/productions").status_code == 401


def test_solves_and_cards_over_http(client, production, take):
    assert client.get(f"/api/takes/{take['id']}/solves").json == []
    assert client.get(f"/api/productions/{production}/cards").json == []
    answer = client.post(f"/api/takes/{take['id']}/solves", json={"card": None, "first": 0}, headers=HEADERS)
    assert answer.status_code == 422
    assert "no footage" in answer.json["message"]
    bad = client.post(f"/api/takes/{take['id']}/solves", json={"first": -1}, headers=HEADERS)
    assert bad.status_code == 422


def test_a_file_in_pieces_over_http(client, production):
    begun = client.post(f"/api/productions/{production}/uploads/begin", json={"size": 11}, headers=HEADERS).json
    where = f"/api/uploads/{begun['upload']}"
    assert client.put(f"{where}/0", data=b"a face ", headers=HEADERS).json["received"] == 7
    assert client.get(where).json == {"upload": begun["upload"], "received": 7, "media": ""}
    wrong = client.put(f"{where}/0", data=b"a face ", headers=HEADERS)
    assert (wrong.status_code, "7 have come" in wrong.json["message"]) == (422, True)
    large = client.put(f"{where}/7", data=bytes(9 << 20), headers=HEADERS)
    assert (large.status_code, "1 to" in large.json["message"]) == (422, True)
    done = client.put(f"{where}/7", data=b"live", headers=HEADERS).json
    assert (done["received"], len(done["media"])) == (11, 64)
    assert client.get(f"/api/uploads/{uuid4()}").status_code == 404


def test_a_notes_sheet_over_http(client, production, take):
    sheet = f"slate,circled\n{take['body']['slate']},yes\nunheard,yes\n".encode()
    media = client.post(f"/api/productions/{production}/uploads", data=sheet, headers=HEADERS).json["media"]
    file = {"media": media, "name": "notes.csv"}
    found = client.post(f"/api/productions/{production}/inspections", json=file, headers=HEADERS).json
    assert (found["kind"], found["report"]["circled"]) == ("notes", 2)
    told = client.post(f"/api/productions/{production}/notes", json=file, headers=HEADERS).json
    assert told == {"changed": 1, "unknown": ["unheard"]}
    rows = client.get(f"/api/productions/{production}/takes").json
    assert next(r for r in rows if r["id"] == take["id"])["circled"]
    made = client.post(
        f"/api/productions/{production}/takes", json={"slate": "x", "performer": "", "files": [file]}, headers=HEADERS
    )
    assert (made.status_code, "not part" in made.json["message"]) == (422, True)


def test_snags_mends_keys_and_stacks_by_http(client, production, take):
    address = f"/api/takes/{take['id']}"
    found = client.post(f"{address}/snags", headers=HEADERS).json
    assert {"snags", "dismissed", "kinds", "more", "silent"} == set(found)
    gone = client.post(f"{address}/mends", json={"version": 1, "keys": ["spike.jawOpen.1"]}, headers=HEADERS)
    assert gone.status_code == 404
    assert "not there any more" in gone.json["message"]
    assert "even1" in client.get(f"{address}/proposal").json["tidy"]["steps"]
    now = client.get(address).json["take"]["version"]
    edit = {"do": "reduce", "channels": {"jawOpen": []}, "tolerance": 0.05}
    made = client.post(f"{address}/keys", json={"version": now, "label": "reduce", "edit": edit}, headers=HEADERS).json
    assert made["report"]["jawOpen"]["worst"] <= 0.05
    bad = client.post(
        f"{address}/keys",
        json={"version": now, "label": "x", "edit": {"do": "fly", "channels": {"jawOpen": []}}},
        headers=HEADERS,
    )
    assert bad.status_code == 422
    assert "fly" in bad.json["message"]
    saved = client.post(f"{address}/stacks", json={"name": "by HTTP"}, headers=HEADERS).json
    assert client.get(f"/api/productions/{production}/stacks").json[0]["name"] == "by HTTP"
    ran = client.post(f"/api/stacks/{saved['id']}/runs", json={"takes": [take["id"]]}, headers=HEADERS).json
    assert ran == {"done": [take["id"]], "failed": []}
    assert client.get(f"/api/productions/{production}/body-stacks").json == []
    none = client.post(f"{address}/body-stacks", json={"name": "by HTTP"}, headers=HEADERS)
    assert none.status_code == 422
    assert "would fit others" in none.json["message"]
    strange = client.post(f"/api/body-stacks/{saved['id']}/runs", json={"takes": [take["id"]]}, headers=HEADERS)
    assert strange.status_code == 404
    head, arrays = unpack(client.get(f"{address}/aligned/{take['id']}").data)
    assert arrays["other"].shape[1] == len(head["channels"])
    assert head["numbers"]["jawOpen"][:2] == [0, 0]
