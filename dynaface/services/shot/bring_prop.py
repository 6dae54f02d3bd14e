"""Props of a shot: brought in as files, and the hands that hold them found from how bodies and props move."""

from collections.abc import Mapping
from pathlib import PurePath
from typing import Any

from dynaface.core.documents.changes import path_of
from dynaface.core.documents.model.shot import ShotBody
from dynaface.core.errors import InputError, NotFoundError, said_of
from dynaface.core.perform.held_props import Standing, holder_of
from dynaface.core.prop.find_holds import find_holds
from dynaface.core.records.records import Document, Source
from dynaface.formats.gltf.document import is_glb
from dynaface.formats.gltf.pack import pack
from dynaface.formats.gltf.prop import describe_prop, read_prop
from dynaface.services.edit_document import change_document
from dynaface.services.media.uploaded import keep_upload, uploaded
from dynaface.services.shot.evaluate_shot import prepare_role
from dynaface.services.work import Work, allow, document_for

BESIDE = 0.5  # metres from the middle of the stage at which a new prop stands


def bring_prop(work: Work, shot: str, version: int, given: Mapping[str, str]) -> Document[ShotBody]:
    """An uploaded glTF as a prop of a shot; one that moves by itself does so from the beginning. given: {"media", "name"}."""
    with work.store.unit() as unit:
        found = document_for(work, unit, shot, ShotBody)
    source, about = _stored(work, found.production, given)
    name = PurePath(given["name"]).stem.strip()[:80] or "prop"
    entry = {"name": name, "source": source.id, "rank": 1.0 + max((p.rank for p in found.body.props.values()), default=-1.0),
             "at": (BESIDE, 0.0, BESIDE), "plays": 0.0 if about["moves"] else None}  # fmt: skip
    if about["moves"]:
        entry["at"] = (0.0, 0.0, 0.0)  # it has its place in what was captured with it
    change = {"path": path_of("props", f"p{work.made('prop')[:8]}"), "value": entry}
    return change_document(work, shot, ShotBody, version, f"bring {name}"[:120], [change])


def _stored(work: Work, production: str, given: Mapping[str, str]) -> tuple[Source, dict[str, Any]]:
    data, medium = uploaded(work, production, given["media"]), given["media"]
    with said_of(given["name"]):
        if not is_glb(data[:4]):
            data = pack(data)
            medium = keep_upload(work, production, data)
        about = describe_prop(read_prop(data))
    with work.store.unit() as unit:
        allow(unit, production, work.person)
        return unit.sources.add(production, "prop", given["name"], medium, work.media.size(medium), about), about


def find_prop_holds(work: Work, shot: str, version: int, prop: str) -> Document[ShotBody]:
    """Puts holds in place of those of a prop: where hands of the roles are on it, as they move with free hands; raises InputError where
    there is none.
    """
    with work.store.unit() as unit:
        body = document_for(work, unit, shot, ShotBody).body
    if prop not in body.props:
        raise NotFoundError("there is no such prop in this shot")
    holders = {}
    shape = None
    for role in body.ordered:
        prepared = prepare_role(work, shot, role)
        shape = prepared.snapshot.props[prop][1]
        free, character = prepared.free.performed, prepared.snapshot.character
        where = Standing(body.roles[role].at, body.roles[role].turn)
        if (
            free is not None
            and character is not None
            and (holder := holder_of(free.result(work.cache), character, where))
        ):
            holders[role] = holder
    found = find_holds(body.props[prop].placed, shape, holders, body.frames, body.fps) if shape else []
    if not found:
        raise InputError(
            f"no hand comes to {body.props[prop].name} in this shot", hint="Add holds by hand, or move the prop"
        )
    holds = {
        f"h{number}": {"role": h.role, "side": h.side, "first": h.first, "last": h.last, "at": h.at}
        for number, h in enumerate(found)
    }
    change = {"path": path_of("props", prop, "holds"), "value": holds}
    return change_document(work, shot, ShotBody, version, f"find the hands on {body.props[prop].name}"[:120], [change])
