"""All addresses of the API as nobody, as a stranger, and as a member of another production who knows others' ids and hashes and
puts them into addresses and bodies: nothing of others' is served or changed.
"""

import random
from collections.abc import Iterator
from dataclasses import dataclass, replace
from typing import Any
from uuid import uuid4

from flask import Flask

from dynaface.assets import ASSETS
from dynaface.core.documents.kinds import KINDS
from dynaface.formats.entries import wav
from dynaface.formats.entries.curve_table import write_table
from dynaface.services.cast.carry_sheet import swap_character
from dynaface.services.lineup.open_lineup import make_lineup
from dynaface.services.media.uploaded import keep_upload
from dynaface.services.people.manage_productions import begin_production
from dynaface.services.people.sessions import begin_session
from dynaface.services.people.sign_in import add_account
from dynaface.services.take.import_take import import_character, import_take
from dynaface.services.work import Work
from dynaface.settings import Settings, from_environment
from dynaface.web.app import make_app
from dynaface.web.people import limiter
from dynaface.web.spec import spec
from dynaface.wiring import make_work, prepare
from tests.makers import channels, tone
from trials.bodies import sample, schema_of
from trials.tally import Tally, finish, options

HEADERS = {"X-Dynaface": "1"}
NOTHING = "00000000-0000-0000-0000-000000000000"
PASSWORD = "lamps on the harbour"
# What belongs to nobody, and what is about who asks.
OPEN = {"/api/health", "/api/session", "/api/sessions", "/api/password", "/api/catalogue", "/api/chart", "/api/heads/general",
        "/api/productions", "/api/openapi.json", "/api/docs"}  # fmt: skip
PATHS = {"source": ("sources/curves", "sources/sound", "sources/body", "source", "footage"), "character": ("character",),
         "take": ("again/jawOpen/take", "take")}  # fmt: skip


@dataclass(frozen=True)
class Somebody:
    """work: as this person; ids: of a production of theirs, by the names that addresses and bodies have for them; mark: a word
    that is in everything they have.
    """

    work: Work
    ids: dict[str, str]
    mark: str
    token: str


def somebody(work: Work, seed: int) -> Somebody:
    """A person with a production, takes with sources, a character, a cast sheet, a job and a handover."""
    mark = f"mark{uuid4().hex[:10]}"
    person = add_account(work.store, f"{mark} person", PASSWORD)
    own = replace(work.by(person.id), defer=lambda job: None)
    production = begin_production(own, f"{mark} production").id
    table, voice = (
        keep_upload(own, production, data)
        for data in (write_table(channels(seed=seed)), wav.write(tone(0.1 + seed / 100)))
    )
    files = [{"media": table, "name": f"{mark}.csv"}, {"media": voice, "name": f"{mark}.wav"}]
    take, other = (import_take(own, production, f"{mark} {n}", f"{mark} performer", files) for n in range(2))
    rig = keep_upload(own, production, (ASSETS / "characters/kettle.glb").read_bytes())
    character = import_character(own, production, f"{mark} rig", {"media": rig, "name": f"{mark}.glb"})
    swap_character(own, take.id, character.id)
    make_lineup(own, production, f"{mark} line-up", [take.id])
    with own.store.unit() as unit:
        job = unit.jobs.add(production, person.id, "solve", f"{mark} job", {"take": take.id}).id
        handover = unit.jobs.add_handover(
            production, take.id, f"{mark} handover", {}, {}, [{"name": f"{mark}.csv", "media": table}]
        ).id
        kinds = {kind: [d.id for d in unit.documents.of_kind(production, KINDS[kind])] for kind in KINDS}
    sources = take.body.sources
    ids = {kind: found[0] if found else NOTHING for kind, found in kinds.items()} | {
        "production": production, "take": take.id, "other": other.id, "document": take.id, "character": character.id, "job": job,
        "handover": handover, "source": sources.curves or "", "sound": sources.sound or "", "upload": NOTHING, "session": NOTHING,
        "media": table, "first": "0", "last": "9", "number": "0", "shape": "jawOpen", "offset": "0", "maker": "m", "prop": "p",
    }  # fmt: skip
    return Somebody(own, ids, mark, begin_session(work.store, person, "", ""))


def _routes(app: Flask) -> Iterator[tuple[str, str, list[str]]]:
    """(method, rule, names in it) of everything that is somebody's."""
    for rule in app.url_map.iter_rules():
        if rule.rule.startswith("/api/") and rule.rule not in OPEN and "<path" not in rule.rule:
            for method in sorted((rule.methods or set()) & {"GET", "POST", "PUT", "PATCH", "DELETE"}):
                yield method, rule.rule, sorted(rule.arguments)


def _address(rule: str, ids: dict[str, str]) -> str:
    for name, value in ids.items():
        rule = rule.replace(f"<{name}>", value).replace(f"<int:{name}>", value)
    return rule


def _body(api: dict[str, Any], method: str, rule: str, ids: dict[str, str], rng: random.Random) -> Any:
    kind = rng.choice(sorted(PATHS))
    known = {**ids, "takes": [ids["take"], ids["other"]], "documents": [ids["take"]], "curves": ids["source"], "body": ids["source"],
             "layout": ids["layout"], "dots": ids["dots"], "version": 1, "file": {"media": ids["media"], "name": "a.csv"},
             "files": [{"media": ids["media"], "name": "a.csv"}],
             "changes": [{"path": rng.choice(PATHS[kind]), "value": ids[kind]}]}  # fmt: skip
    return sample(schema_of(api, method, rule), api["components"]["schemas"], known, rng)


def _state(theirs: Somebody) -> list[tuple[str, int]]:
    with theirs.work.store.unit() as unit:
        return sorted(
            (d.id, d.version) for kind in KINDS.values() for d in unit.documents.of_kind(theirs.ids["production"], kind)
        )


def run(settings: Settings, count: int, seed: int) -> Tally:
    """Asks everything once as nobody and as a stranger, then `count` times with others' ids in bodies or addresses."""
    rng, tally = random.Random(seed), Tally()
    work = make_work(settings)
    app = make_app(work, replace(settings, accounts="password"))
    theirs, mine = somebody(work, 1), somebody(work, 2)
    limiter.reset()
    with app.app_context():
        api = spec.spec
    before = _state(theirs)
    nobody, me = app.test_client(), app.test_client()
    with me.session_transaction() as session:
        session["_user_id"], session["_fresh"] = mine.token, True

    def ask(who: str, client: Any, method: str, rule: str, ids: dict[str, str], body: Any) -> int:
        answer = client.open(
            _address(rule, ids), method=method, headers=HEADERS, **({} if method == "GET" else {"json": body})
        )
        tally.count(f"{who}: {answer.status_code}")
        if answer.status_code >= 500:
            tally.fault(f"{who}: {method} {rule} {str(body)[:200]}: {answer.status_code}")
        if theirs.mark.encode() in answer.data:
            tally.fault(f"{who}: {method} {rule} {str(body)[:200]} serves what is others'")
        return int(answer.status_code)

    for method, rule, names in _routes(app):
        body = _body(api, method, rule, theirs.ids, rng)
        if ask("nobody", nobody, method, rule, theirs.ids, body) != 401:
            tally.fault(f"{method} {rule} answers nobody")
        if names and ask("their address", me, method, rule, theirs.ids, body) not in (403, 404, 422):
            tally.fault(f"{method} {rule} answers a stranger")
    routes = [r for r in _routes(app) if r[0] != "DELETE"]
    for _ in range(count):
        method, rule, names = rng.choice(routes)
        # Mine but for one id in the address, or all of them; theirs in the body.
        ids = mine.ids | ({n: theirs.ids[n] for n in [rng.choice(names)]} if names and rng.random() < 0.2 else {})
        ask("their ids", me, method, rule, ids, _body(api, method, rule, theirs.ids, rng))
    if _state(theirs) != before:
        tally.fault("documents of others were changed")
    return tally


if __name__ == "__main__":
    asked = options(__doc__ or "", 2000)
    made = from_environment()
    prepare(made)
    finish(run(made, asked.count, asked.seed))
