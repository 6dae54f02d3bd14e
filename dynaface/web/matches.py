"""Matches of skeletons: shown, kept, copied, as files; measures of performers."""

from flask import Response, request

from dynaface.services.match.keep_match import copy_match, export_match, import_match, keep_match, list_matches
from dynaface.services.match.report_match import hands_report, match_report
from dynaface.services.take.performer_measures import list_measures, measure_from_take, own_measures
from dynaface.web.answers import as_file, as_json
from dynaface.web.models import File
from dynaface.web.models_documents import JoinDocument, MatchDocument, MeasuresDocument, MeasuresRows
from dynaface.web.models_match import MatchCopy, MatchReport, MatchRows, NewMatch
from dynaface.web.spec import checked, routes, work


@routes.get("/productions/<production>/matches")
@checked(gives=MatchRows)
def matches(production: str) -> Response:
    """All matches that a production keeps."""
    return as_json(list_matches(work(), production))


@routes.get("/productions/<production>/measures")
@checked(gives=MeasuresRows)
def measures(production: str) -> Response:
    """The measures of a production's performers."""
    return as_json(list_measures(work(), production))


@routes.post("/takes/<take>/measures")
@checked(gives=MeasuresDocument)
def measures_of_performer(take: str) -> Response:
    """The measures of a take's performer, begun where there are none."""
    return as_json(own_measures(work(), take))


@routes.post("/takes/<take>/measures/from-body")
@checked(gives=MeasuresDocument)
def measures_from_body(take: str) -> Response:
    """The measures of a take's body as those of its performer."""
    return as_json(measure_from_take(work(), take))


@routes.get("/takes/<take>/match")
@checked(gives=MatchReport)
def see_match(take: str) -> Response:
    """Both skeletons of a take and what is matched."""
    return as_json(match_report(work(), take))


@routes.get("/takes/<take>/hands-match")
@checked(gives=MatchReport)
def see_hands(take: str) -> Response:
    """The skeleton of a take's hands, the character's, and what is matched."""
    return as_json(hands_report(work(), take))


@routes.post("/takes/<take>/match")
@checked(takes=NewMatch, gives=MatchDocument)
def new_match(take: str) -> Response:
    """Keeps a take's match for all takes with these skeletons."""
    return as_json(keep_match(work(), take, request.context.json.name))  # type: ignore[attr-defined]


@routes.post("/takes/<take>/hands-match")
@checked(takes=NewMatch, gives=MatchDocument)
def new_hands_match(take: str) -> Response:
    """Keeps the match of a take's hands for all takes with these skeletons."""
    return as_json(keep_match(work(), take, request.context.json.name, "hands"))  # type: ignore[attr-defined]


@routes.get("/takes/<take>/hands-match/file")
@checked()
def get_hands_match(take: str) -> Response:
    """The match of a take's hands as a file."""
    return as_file(*export_match(work(), take, "hands"))


@routes.post("/takes/<take>/hands-match/file")
@checked(takes=File, gives=JoinDocument)
def put_hands_match(take: str) -> Response:
    """An uploaded match as the take's own of its hands."""
    return as_json(import_match(work(), take, request.context.json.model_dump(), "hands"))  # type: ignore[attr-defined]


@routes.get("/takes/<take>/match/file")
@checked()
def get_match(take: str) -> Response:
    """A take's match as a file."""
    return as_file(*export_match(work(), take))


@routes.post("/takes/<take>/match/file")
@checked(takes=File, gives=JoinDocument)
def put_match(take: str) -> Response:
    """An uploaded match as the take's own."""
    return as_json(import_match(work(), take, request.context.json.model_dump()))  # type: ignore[attr-defined]


@routes.post("/matches/<match>/copies")
@checked(takes=MatchCopy, gives=MatchDocument)
def match_copies(match: str) -> Response:
    """A match in another production as well."""
    return as_json(copy_match(work(), match, request.context.json.production))  # type: ignore[attr-defined]
