"""Taking files in: new takes, further sources for a take, characters."""

from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass
from typing import Any

from dynaface.core.curves.channels import Recording
from dynaface.core.documents.model.character import CharacterBody
from dynaface.core.documents.model.record import parse
from dynaface.core.documents.model.take import Sources, TakeBody, new_take
from dynaface.core.errors import InputError, said_of
from dynaface.core.records.records import Document, Source
from dynaface.core.sound.sound import Sound, peaks
from dynaface.formats.bodies import NamedBody, read_bodies
from dynaface.formats.gltf.pack import pack
from dynaface.services.edit_document import change_document
from dynaface.services.jobs.request_jobs import request_preparation
from dynaface.services.load_source import read_meshes, study_of
from dynaface.services.media.inspect_upload import Inspected, inspect_upload
from dynaface.services.media.uploaded import keep_upload, uploaded
from dynaface.services.take.find_take_snags import count_snags
from dynaface.services.work import Work, add_document, allow, document_for
from dynaface.store.unit import Unit

PEAKS_A_SECOND = 200
NO_PART = {
    "character": (
        "a character is not part of a take",
        "Bring it in at the Cast desk, or its animated skeleton as the body",
    ),
    "notes": ("a notes sheet is not part of a take", "Apply it to all takes at the Gather desk"),
}


def import_take(
    work: Work,
    production: str,
    slate: str,
    performer: str,
    files: Sequence[Mapping[str, Any]],
    prepared: bool = False,
) -> Document[TakeBody]:
    """A take from uploaded files, each as `attach_source` takes it: one curve table at most, one sound, one body.

    All are read before anything is stored, so that a bad file leaves nothing behind. `prepared`: the caller brings what
    is known of the footage, so it is not looked through.
    """
    parts = [_part(work, production, f) for f in files]
    kinds = [p.kind for p in parts]
    if len(set(kinds)) != len(kinds):
        raise InputError(
            "two of these files are of one kind",
            hint="A take has one clip, one set of markers, one curve table, one sound, one body",
        )
    if not kinds:
        raise InputError("there is no file to make a take of")
    body = new_take(slate.strip(), performer.strip())
    with work.store.unit() as unit:
        allow(unit, production, work.person)
        made = [part.store(unit) for part in parts]
        sources = Sources.model_validate({s.kind: s.id for s in made})
        take = add_document(unit, production, body.model_copy(update={"sources": sources}))
    if not prepared:
        _prepare(work, take)
    if sources.curves:
        count_snags(work, take.id)
    return take


def attach_source(work: Work, take: str, given: Mapping[str, Any]) -> Document[TakeBody]:
    """A further source for a take, in place of one of the same kind; it can be undone. given: {"media", "name", "recipe"?, "part"?: "body" or
    "hands" for what moves a skeleton, "which"?: the performer in its file}.
    """
    with work.store.unit() as unit:
        found = document_for(work, unit, take, TakeBody)
    part = _part(work, found.production, given)
    with work.store.unit() as unit:
        allow(unit, found.production, work.person)
        source = part.store(unit)
    change = {"path": f"sources/{source.kind}", "value": source.id}
    edited = change_document(work, take, TakeBody, found.version, f"bring in {source.name}"[:120], [change])
    if source.kind == "footage":
        _prepare(work, edited)
    if source.kind in ("curves", "sound") and edited.body.sources.curves:
        count_snags(work, take)
    return edited


def list_bodies(work: Work, production: str, given: Mapping[str, Any]) -> list[dict[str, Any]]:
    """Every body take of an uploaded file, so that one of several performers can be chosen. Raises InputError where it holds none."""
    with work.store.unit() as unit:
        allow(unit, production, work.person)
    return [body.describe() for body in _bodies(work, production, given)]


def _bodies(work: Work, production: str, given: Mapping[str, Any]) -> list[NamedBody]:
    with said_of(given["name"]):
        return read_bodies(uploaded(work, production, given["media"]), given["name"])


@dataclass(frozen=True)
class _Part:
    """A file that was read: what of a take it is, and what stores it."""

    kind: str
    store: Callable[[Unit], Source]


def _part(work: Work, production: str, given: Mapping[str, Any]) -> _Part:
    """A file as part of a take; raises InputError for one that is none."""
    if given.get("part"):
        return _Part(given["part"], _moving(work, production, given))
    inspected = _looked(work, production, given)
    if inspected.format.kind in NO_PART:
        message, hint = NO_PART[inspected.format.kind]
        raise InputError(message, hint=hint)
    return _Part(inspected.format.kind, lambda unit: store_source(work, unit, production, inspected, given))


def _moving(work: Work, production: str, given: Mapping[str, Any]) -> Callable[[Unit], Source]:
    """One of the performers in a file as a body, or as hands for one."""
    bodies, which, part = _bodies(work, production, given), int(given.get("which") or 0), given["part"]
    if which >= len(bodies):
        raise InputError(
            f"{given['name']} has {len(bodies)} performers, no number {which + 1}", hint="Choose one of them"
        )
    info = bodies[which].describe()
    if part == "hands" and not info["fingers"]:
        raise InputError(f"{given['name']}: no fingers are found on {info['name']}", hint="Bring in a take of hands")
    size = work.media.size(given["media"])
    return lambda unit: unit.sources.add(
        production, part, given["name"], given["media"], size, {**info, "which": which}
    )


def _prepare(work: Work, take: Document[TakeBody]) -> None:
    """Footage is made ready to be looked at in the background."""
    if take.body.sources.footage:
        request_preparation(work, take.id)


def import_character(work: Work, production: str, name: str, given: Mapping[str, Any]) -> Document[CharacterBody]:
    """A character from an uploaded glTF."""
    if not name.strip() or len(name) > 80:
        raise InputError("the character's name must have 1 to 80 letters")
    source = store_character(work, production, given)
    with work.store.unit() as unit:
        body = parse(CharacterBody, {"name": name.strip(), "source": source.id}, "the character")
        return add_document(unit, production, body)


def store_character(work: Work, production: str, given: Mapping[str, Any]) -> Source:
    """An uploaded glTF as a source, with its mesh looked over; a .gltf with its files is kept as one glTF binary."""
    inspected = _looked(work, production, given)
    if inspected.format.kind != "character":
        raise InputError(f"{given['name']} is a {inspected.format.label}, not a character", hint="Bring a .glb")
    if inspected.format.name == "gltf archive":
        given = {**given, "media": keep_upload(work, production, pack(work.media.get(given["media"])))}
    with said_of(given["name"]):
        read_meshes(work, given["media"])
    study = study_of(work, given["media"]).describe()
    with work.store.unit() as unit:
        allow(unit, production, work.person)
        source = store_source(work, unit, production, inspected, given, study=study)
    return source


def _looked(work: Work, production: str, given: Mapping[str, Any]) -> Inspected:
    with said_of(given["name"]):
        return inspect_upload(work, production, given["media"], given["name"], given.get("recipe"))


def store_source(work: Work, unit: Unit, production: str, inspected: Inspected, given: Mapping[str, Any],
                 **found: Any) -> Source:  # fmt: skip
    """Stores an inspected file as a source, its numbers as blocks, and keeps the reading recipe; found: further findings."""
    info = {k: v for k, v in inspected.report.items() if k != "header"} | found
    size = work.media.size(given["media"])
    source = unit.sources.add(production, inspected.format.kind, given["name"], given["media"], size, info)
    value = inspected.value
    if isinstance(value, Recording):
        unit.sources.write_block(source.id, "times:f8", value.times)
        unit.sources.write_block(source.id, "values:f4", value.values)
        unit.sources.learn_recipe(production, inspected.report["header"], info["recipe"])
    elif isinstance(value, Sound):
        unit.sources.write_block(source.id, "peaks:f4", peaks(value, PEAKS_A_SECOND))
    return source
