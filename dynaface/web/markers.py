"""Markers: the face chart, layouts, solves of markers."""

from flask import Response, request

from dynaface.core.documents.model.layout import LayoutBody
from dynaface.services.layouts import layouts_of
from dynaface.services.markers.marker_layouts import (
    chart_places,
    fetch_markers,
    propose_again,
    propose_for_take,
    study_layout,
)
from dynaface.services.markers.solve_marker_take import fetch_solved_markers, request_marker_solve, request_samples
from dynaface.web.answers import as_bundle, as_json
from dynaface.web.models import JobOut
from dynaface.web.models_documents import LayoutDocument, LayoutRows
from dynaface.web.models_markers import ChartPlaces, LayoutStudy, NewLayout, NewMarkerSolve
from dynaface.web.spec import checked, routes, work


@routes.get("/chart")
@checked(gives=ChartPlaces)
def chart() -> Response:
    """The places of the face chart."""
    return as_json(chart_places())


@routes.get("/productions/<production>/layouts")
@checked(gives=LayoutRows)
def layouts(production: str) -> Response:
    """All marker layouts."""
    return as_json(layouts_of(work(), production, LayoutBody))


@routes.post("/takes/<take>/layouts")
@checked(takes=NewLayout, gives=LayoutDocument)
def new_layout(take: str) -> Response:
    """A layout proposed from a take's markers."""
    given: NewLayout = request.context.json  # type: ignore[attr-defined]
    return as_json(propose_for_take(work(), take, given.name, given.neutral))


@routes.post("/layouts/<layout>/proposals")
@checked(gives=LayoutDocument)
def propose_places_again(layout: str) -> Response:
    """Proposes the places of a layout anew."""
    return as_json(propose_again(work(), layout))


@routes.post("/layouts/<layout>/samples")
@checked(gives=JobOut)
def marker_samples(layout: str) -> Response:
    """Queues looking for the layout's expression samples."""
    return as_json(request_samples(work(), layout))


@routes.get("/layouts/<layout>/study")
@checked(gives=LayoutStudy)
def layout_study(layout: str) -> Response:
    """What a layout lets see of each shape."""
    return as_json(study_layout(work(), layout))


@routes.post("/takes/<take>/marker-solves")
@checked(takes=NewMarkerSolve, gives=JobOut)
def new_marker_solve(take: str) -> Response:
    """Queues a solve of a take's markers."""
    return as_json(request_marker_solve(work(), take, request.context.json.layout))  # type: ignore[attr-defined]


@routes.get("/sources/<source>/markers")
@checked()
def markers(source: str) -> Response:
    """The markers of a source as they came, as a binary bundle."""
    return as_bundle(*fetch_markers(work(), source))


@routes.get("/sources/<source>/solved-markers")
@checked()
def solved_markers(source: str) -> Response:
    """The markers of a solve, put right and in the head's frame, with their residuals, as a binary bundle."""
    return as_bundle(*fetch_solved_markers(work(), source))
