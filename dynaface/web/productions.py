"""Productions, their takes, characters and uploads."""

from flask import Response, current_app, request

from dynaface.core.cast.propose_joints import named_ways
from dynaface.core.cast.ways import WAYS
from dynaface.core.layers.maker import known_makers
from dynaface.core.shapes.action_units import UNIT_OF
from dynaface.core.shapes.regions import REGION, REGIONS
from dynaface.core.shapes.standard import CHANNELS, SHAPES
from dynaface.core.tidy.stack import STEPS
from dynaface.core.tidy_body.groups import GROUPS
from dynaface.core.tidy_body.stack import BODY_STEPS
from dynaface.services.people.manage_productions import add_member, begin_production, list_productions
from dynaface.services.take.apply_notes import apply_notes
from dynaface.services.take.import_take import import_character, import_take
from dynaface.services.take.open_take import list_characters, list_takes
from dynaface.web.answers import as_json
from dynaface.web.models import (
    Catalogue,
    CharacterRows,
    File,
    Health,
    NewCharacter,
    NewMember,
    NewProduction,
    NewTake,
    NotesApplied,
    ProductionOut,
    Productions,
    TakeRows,
)
from dynaface.web.models_documents import CharacterDocument, TakeDocument
from dynaface.web.spec import checked, routes, work


@routes.get("/health")
@checked(gives=Health)
def health() -> Response:
    """Whether the server answers, and reaches the database with its queue; 503 where it does not."""
    found = current_app.extensions["dynaface"].store.readiness()
    answer = as_json({"ok": all(found.values()), **found}, 200 if all(found.values()) else 503)
    answer.cache_control.no_store = True
    return answer


@routes.get("/catalogue")
@checked(gives=Catalogue)
def catalogue() -> Response:
    """The standard shapes, regions, tidy steps and makers."""
    steps = [
        {"name": s.name, "label": s.label, "kind": s.kind, "help": s.help,
         "regions": list(s.regions), "needsPlace": s.within is not None,
         "parameters": [p.describe() for p in s.parameters]}
        for s in STEPS.values()
    ]  # fmt: skip
    body = [{"name": s.name, "label": s.label, "help": s.help, "parameters": [p.describe() for p in s.parameters]}
            for s in BODY_STEPS.values()]  # fmt: skip
    return as_json({"bodySteps": body, "bodyGroups": list(GROUPS), "steps": steps, "shapes": SHAPES, "channels": CHANNELS, "regions": REGIONS, "regionOf": REGION,
                    "makers": [m.describe() for m in known_makers().values()], "unitOf": UNIT_OF, "ways": WAYS, "aims": list(named_ways())})  # fmt: skip


@routes.get("/productions")
@checked(gives=Productions)
def productions() -> Response:
    """The productions of who asks."""
    return as_json(list_productions(work()))


@routes.post("/productions")
@checked(takes=NewProduction, gives=ProductionOut)
def new_production() -> Response:
    """Begins a production."""
    return as_json(begin_production(work(), request.context.json.name))  # type: ignore[attr-defined]


@routes.post("/productions/<production>/members")
@checked(takes=NewMember)
def new_member(production: str) -> Response:
    """Makes somebody a member."""
    add_member(work(), production, request.context.json.name)  # type: ignore[attr-defined]
    return as_json({})


@routes.get("/productions/<production>/takes")
@checked(gives=TakeRows)
def takes(production: str) -> Response:
    """All takes."""
    return as_json(list_takes(work(), production))


@routes.post("/productions/<production>/takes")
@checked(takes=NewTake, gives=TakeDocument)
def new_take(production: str) -> Response:
    """A take of uploaded files."""
    given: NewTake = request.context.json  # type: ignore[attr-defined]
    files = [f.model_dump(exclude_none=True) for f in given.files]
    return as_json(import_take(work(), production, given.slate, given.performer, files))


@routes.post("/productions/<production>/notes")
@checked(takes=File, gives=NotesApplied)
def notes(production: str) -> Response:
    """Circles and notes takes as an uploaded notes sheet says."""
    given: File = request.context.json  # type: ignore[attr-defined]
    return as_json(apply_notes(work(), production, given.media, given.name))


@routes.get("/productions/<production>/characters")
@checked(gives=CharacterRows)
def characters(production: str) -> Response:
    """All characters."""
    return as_json(list_characters(work(), production))


@routes.post("/productions/<production>/characters")
@checked(takes=NewCharacter, gives=CharacterDocument)
def new_character(production: str) -> Response:
    """A character of an uploaded file."""
    given: NewCharacter = request.context.json  # type: ignore[attr-defined]
    return as_json(import_character(work(), production, given.name, given.file.model_dump()))
