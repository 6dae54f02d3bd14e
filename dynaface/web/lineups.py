"""Line-ups: begun, opened, recordings placed, put to use."""

from flask import Response, request

from dynaface.services.lineup.lay_on_shot import lay_on_shot
from dynaface.services.lineup.open_lineup import choose_takes, list_lineups, make_lineup, open_lineup
from dynaface.services.lineup.place_recordings import place_by_timecode, request_placing
from dynaface.services.lineup.use_lineup import shot_of_lineup, use_lineup
from dynaface.web.answers import as_json
from dynaface.web.models import JobOut
from dynaface.web.models_documents import LineUpDocument, ShotDocument
from dynaface.web.models_lineup import (
    ByTimecode,
    ChosenTakes,
    Compared,
    LineUpRows,
    LineUpUsed,
    NewLineUp,
    NewLineUpShot,
    OpenedLineUp,
)
from dynaface.web.models_shot import AtVersion
from dynaface.web.spec import checked, routes, work


@routes.get("/productions/<production>/lineups")
@checked(gives=LineUpRows)
def lineups(production: str) -> Response:
    """All line-ups of a production."""
    return as_json(list_lineups(work(), production))


@routes.post("/productions/<production>/lineups")
@checked(takes=NewLineUp, gives=LineUpDocument)
def new_lineup(production: str) -> Response:
    """A line-up of all recordings of takes."""
    given: NewLineUp = request.context.json  # type: ignore[attr-defined]
    return as_json(make_lineup(work(), production, given.name, given.takes, given.rate))


@routes.get("/lineups/<lineup>")
@checked(gives=OpenedLineUp)
def opened_lineup(lineup: str) -> Response:
    """A line-up with all that is known of its recordings."""
    return as_json(open_lineup(work(), lineup))


@routes.post("/lineups/<lineup>/takes")
@checked(takes=ChosenTakes, gives=LineUpDocument)
def lineup_takes(lineup: str) -> Response:
    """The line-up of other takes."""
    given: ChosenTakes = request.context.json  # type: ignore[attr-defined]
    return as_json(choose_takes(work(), lineup, given.version, given.takes))


@routes.post("/lineups/<lineup>/timecode")
@checked(takes=ByTimecode, gives=LineUpDocument)
def lineup_by_timecode(lineup: str) -> Response:
    """Recordings placed by their counts."""
    given: ByTimecode = request.context.json  # type: ignore[attr-defined]
    return as_json(place_by_timecode(work(), lineup, given.version, given.keys))


@routes.post("/lineups/<lineup>/compare")
@checked(takes=Compared, gives=JobOut)
def lineup_by_comparing(lineup: str) -> Response:
    """Queues placing recordings by what they heard and saw."""
    given: Compared = request.context.json  # type: ignore[attr-defined]
    return as_json(request_placing(work(), lineup, given.by, given.keys))


@routes.post("/lineups/<lineup>/use")
@checked(gives=LineUpUsed)
def lineup_used(lineup: str) -> Response:
    """Bodies and sounds of the takes where the line-up has them."""
    return as_json(use_lineup(work(), lineup))


@routes.post("/lineups/<lineup>/shot")
@checked(takes=NewLineUpShot, gives=ShotDocument)
def lineup_shot(lineup: str) -> Response:
    """A shot in which the takes lie as they were played."""
    return as_json(shot_of_lineup(work(), lineup, request.context.json.name))  # type: ignore[attr-defined]


@routes.post("/lineups/<lineup>/shots/<shot>")
@checked(takes=AtVersion, gives=ShotDocument)
def lineup_onto_shot(lineup: str, shot: str) -> Response:
    """The clips of a shot where the line-up says that they were played."""
    return as_json(lay_on_shot(work(), lineup, shot, request.context.json.version))  # type: ignore[attr-defined]
