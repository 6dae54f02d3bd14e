"""Malformed calls of every address of the API: none may be answered with 500, and what is stored stays readable."""

import random
from collections.abc import Iterator
from dataclasses import replace
from typing import Any

from flask import Flask
from flask.testing import FlaskClient

from dynaface.core.documents.kinds import KINDS
from dynaface.demo.seed import NAME
from dynaface.services.people.sign_in import local_person
from dynaface.services.work import Work
from dynaface.settings import Settings, from_environment
from dynaface.web.app import make_app
from dynaface.web.spec import spec
from dynaface.wiring import make_work, prepare
from trials.bodies import ODD, RAW, odd, sample, schema_of
from trials.tally import Tally, finish, options

HEADERS = {"X-Dynaface": "1"}
NOTHING = "00000000-0000-0000-0000-000000000000"
KEY_EDITS = ("reduce", "clear", "correct", "insert", "delete", "move", "scale", "tangents", "slope", "value", "paste", "mirror",
             "draw", "brush", "restore")  # fmt: skip
PATHS = ("notes", "slate", "circled", "sources", "sources/curves", "soundOffset", "tidy", "tidy/steps/smooth/places", "hand",
         "hand/jawOpen", "tacks", "tacks/p1", "dots", "dismissed", "dismissed/a", "regionStrength", "regionStrength/lips", "matches",
         "joints", "contacts", "contacts/off", "headWeight", "nudge", "source", "name", "schema", "range", "", "/", "a" * 300)  # fmt: skip


def _known(work: Work, production: str) -> dict[str, str]:
    """An id for each name that addresses and bodies have for them; the takes are made for the trial."""
    with work.store.unit() as unit:
        ids = {kind: [d.id for d in unit.documents.of_kind(production, KINDS[kind])] for kind in KINDS}
        takes = unit.documents.of_kind(production, KINDS["take"])
        source = next(iter(takes[0].body.sources.held.values()))
        job = unit.jobs.add(production, work.person, "solve", "Solve", {}).id
        unit.jobs.change(job, state="done")
    held = {kind: (found[0] if found else NOTHING) for kind, found in ids.items()}
    return held | {"production": production, "other": ids["take"][-1], "document": ids["take"][0], "source": source, "job": job,
                   "handover": NOTHING, "upload": NOTHING, "first": "0", "last": "9", "number": "0", "shape": "jawOpen",
                   "offset": "0"}  # fmt: skip


def _edit(rng: random.Random) -> dict[str, Any]:
    """An edit of keys, with any of the fields that edits have."""
    values = {"frames": 1.0, "value": 0.1, "frame": 3.5, "points": [[1, 0.2], [9, 0.4]], "centre": 5, "size": 4, "amount": 0.5,
              "way": "pull", "kind": "flat", "weight": 0.4, "before": 0.1, "after": 0.1, "copied": {"jawOpen": [[1, 0.5, 0, 0, "flat"]]},
              "first": 0, "last": 8, "to": "raw", "tolerance": 0.01, "about": 2, "time": 2, "snap": False, "refit": True}  # fmt: skip
    kept = {k: v for k, v in values.items() if rng.random() < 0.7}
    return {"do": rng.choice(KEY_EDITS), "channels": {"jawOpen": []}, **kept}


def _body(api: dict[str, Any], method: str, rule: str, known: dict[str, str], rng: random.Random) -> Any:
    fields = {**known, "edit": _edit(rng), "version": rng.choice((1, 1, 2, 2**33)),
              "changes": [{"path": rng.choice(PATHS), "value": rng.choice((*ODD, "x", 0.5, {}))} for _ in range(2)],
              "takes": [known["take"]], "documents": [known["take"]], "media": rng.choice(("0" * 64, "f" * 64))}  # fmt: skip
    return sample(schema_of(api, method, rule), api["components"]["schemas"], fields, rng)


def _calls(app: Flask, known: dict[str, str], rng: random.Random) -> Iterator[tuple[str, str, dict[str, Any]]]:
    """(method, address, arguments of the client), without end."""
    with app.app_context():
        api = spec.spec
    rules = [r for r in app.url_map.iter_rules() if r.rule.startswith("/api/") and "<path" not in r.rule]
    while True:
        rule = rng.choice(rules)
        method = rng.choice(sorted((rule.methods or set()) & {"GET", "POST", "PUT", "PATCH", "DELETE"}))
        if rule.rule == "/api/session" and method == "DELETE":
            continue
        names = {a: known.get(a, "x") for a in rule.arguments}
        if names and rng.random() < 0.15:
            names[rng.choice(sorted(names))] = str(rng.choice((*ODD[2:8], "x", "..", "%00", "日本", "a" * 400)))
        path = rule.rule
        for name, value in names.items():
            for kind in ("", "int:"):
                path = path.replace(f"<{kind}{name}>", value.replace("/", "%2F").replace("\x00", "%00") or "%20")
        if method == "GET":
            yield method, path, {}
            continue
        body = _body(api, method, rule.rule, known, rng)
        if rng.random() < 0.1:
            yield method, path, {"data": rng.choice(RAW), "content_type": "application/json"}
        else:
            yield method, path, {"json": odd(body, rng) if rng.random() < 0.85 else body}


def _still_readable(client: FlaskClient, known: dict[str, str]) -> str:
    """The first of what others must be able to read that can't be read any more, "" where all can."""
    for address in (f"/api/productions/{known['production']}/takes", f"/api/productions/{known['production']}/characters",
                    f"/api/takes/{known['take']}"):  # fmt: skip
        status = client.get(address).status_code
        if status != 200:
            return f"{address} is answered with {status}"
    return ""


def run(settings: Settings, count: int, seed: int) -> Tally:
    """Calls the API in this process `count` times, on the demo and as its owner."""
    rng, tally = random.Random(seed), Tally()
    work = make_work(settings)
    work = replace(work, defer=lambda job: None).by(local_person(work.store).id)
    with work.store.unit() as unit:
        production = next(p.id for p in unit.people.productions_of(work.person) if p.name == NAME)
    known = _known(work, production)
    app = make_app(work, replace(settings, accounts="alone"))
    app.config["PROPAGATE_EXCEPTIONS"] = False
    client = app.test_client()
    calls = _calls(app, known, rng)
    for n in range(count):
        method, address, arguments = next(calls)
        answer = client.open(address, method=method, headers=HEADERS, **arguments)
        tally.count(str(answer.status_code))
        if answer.status_code >= 500:
            tally.fault(f"{method} {address[:120]} {str(arguments)[:300]}: {answer.status_code}")
        if n % 50 == 49 and (broken := _still_readable(client, known)):
            tally.fault(f"after {method} {address[:80]} {str(arguments)[:200]}: {broken}")
            break
    return tally


if __name__ == "__main__":
    asked = options(__doc__ or "", 3000)
    made = from_environment()
    prepare(made)
    finish(run(made, asked.count, asked.seed))
