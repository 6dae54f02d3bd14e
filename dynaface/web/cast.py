"""Characters and cast sheets: health, study, joints, proportions, extremes, and sheets that move."""

from flask import Response, request

from dynaface.services.cast.browse_extremes import browse_extremes
from dynaface.services.cast.carry_sheet import (
    compare_sheet,
    copy_sheet,
    export_sheet,
    foresee_swap,
    import_sheet,
    renew_character,
    swap_character,
)
from dynaface.services.cast.measure_proportions import propose_for_take
from dynaface.services.character.aim_joint import aim_joint
from dynaface.services.character.character_health import character_health, character_study
from dynaface.services.take.import_clips import import_clips
from dynaface.services.take.report_take import cast_report
from dynaface.web.answers import as_file, as_json
from dynaface.web.models import File
from dynaface.web.models_cast import (
    AimedJoint,
    AimJoint,
    CastReport,
    CharacterChange,
    CharacterHealth,
    CharacterStudy,
    CopySheet,
    Extremes,
    ExtremesAsked,
    Foreseen,
    ImportedClips,
    NewClips,
    Proportions,
    SheetDifferences,
    Swap,
)
from dynaface.web.models_documents import CastDocument, TakeDocument
from dynaface.web.spec import checked, routes, work


@routes.get("/takes/<take>/cast")
@checked(gives=CastReport)
def see_cast(take: str) -> Response:
    """What the cast sheet matches, what is missing, what is unused."""
    return as_json(cast_report(work(), take))


@routes.get("/characters/<character>/health")
@checked(gives=CharacterHealth)
def see_health(character: str) -> Response:
    """Which shapes a character has, and what does not do what it says."""
    return as_json(character_health(work(), character))


@routes.get("/characters/<character>/study")
@checked(gives=CharacterStudy)
def see_study(character: str) -> Response:
    """What a character's mesh says."""
    return as_json(character_study(work(), character))


@routes.post("/characters/<character>/aim")
@checked(takes=AimJoint, gives=AimedJoint)
def aim(character: str) -> Response:
    """Which way a joint has to turn or slide."""
    given: AimJoint = request.context.json  # type: ignore[attr-defined]
    return as_json(aim_joint(work(), character, given.joint, given.channel, given.way, given.millimetres))


@routes.post("/characters/<character>/versions")
@checked(takes=File, gives=CharacterChange)
def renew(character: str) -> Response:
    """Brings in a newer version of a rig; sheets are carried over."""
    given: File = request.context.json  # type: ignore[attr-defined]
    return as_json(renew_character(work(), character, given.model_dump(exclude_none=True)))


@routes.get("/takes/<take>/proportions")
@checked(gives=Proportions)
def see_proportions(take: str) -> Response:
    """Strengths proposed from what was measured on performer and character."""
    return as_json(propose_for_take(work(), take))


@routes.post("/takes/<take>/extremes")
@checked(takes=ExtremesAsked, gives=Extremes)
def see_extremes(take: str) -> Response:
    """Where the performer is most extreme, as poses of the character."""
    given: ExtremesAsked = request.context.json  # type: ignore[attr-defined]
    return as_json({"extremes": browse_extremes(work(), take, [c.model_dump() for c in given.cast])})


@routes.post("/takes/<take>/swap/foresee")
@checked(takes=Swap, gives=Foreseen)
def see_swap(take: str) -> Response:
    """What would change on another character."""
    return as_json(foresee_swap(work(), take, request.context.json.character))  # type: ignore[attr-defined]


@routes.post("/takes/<take>/swap")
@checked(takes=Swap, gives=TakeDocument)
def swap(take: str) -> Response:
    """Puts a take on another character; the sheet is carried."""
    return as_json(swap_character(work(), take, request.context.json.character))  # type: ignore[attr-defined]


@routes.get("/takes/<take>/sheet")
@checked()
def get_sheet(take: str) -> Response:
    """The take's cast sheet as a file."""
    return as_file(*export_sheet(work(), take))


@routes.post("/takes/<take>/sheet")
@checked(takes=File, gives=CastDocument)
def put_sheet(take: str) -> Response:
    """An uploaded sheet in place of the take's."""
    return as_json(import_sheet(work(), take, request.context.json.model_dump()))  # type: ignore[attr-defined]


@routes.post("/takes/<take>/sheet/compare")
@checked(takes=File, gives=SheetDifferences)
def differ(take: str) -> Response:
    """Where an uploaded sheet differs from the take's."""
    return as_json({"differences": compare_sheet(work(), take, request.context.json.model_dump())})  # type: ignore[attr-defined]


@routes.post("/takes/<take>/sheet/copy")
@checked(takes=CopySheet, gives=CastDocument)
def take_over(take: str) -> Response:
    """The matches of another performer's sheet, the proportions left to be made."""
    return as_json(copy_sheet(work(), take, request.context.json.performer))  # type: ignore[attr-defined]


@routes.post("/productions/<production>/clips")
@checked(takes=NewClips, gives=ImportedClips)
def bring_clips(production: str) -> Response:
    """The animated shapes of a glTF as takes."""
    given: NewClips = request.context.json  # type: ignore[attr-defined]
    return as_json(import_clips(work(), production, given.performer, given.file.model_dump(), given.startFrame))
