"""How a page reaches the process of feeds, tokens for other machines, profiles of performers who were captured live."""

from flask import Response, current_app, request

from dynaface.core.errors import NotFoundError
from dynaface.services.feed.profiles import list_feed_profiles
from dynaface.services.feed.tickets import TOKEN, make_ticket
from dynaface.settings import LiveSettings
from dynaface.web.answers import as_json
from dynaface.web.models import FeedDoor, FeedToken
from dynaface.web.models_documents import FeedProfileRows
from dynaface.web.spec import checked, routes, work


def feed_origin() -> str:
    """Where pages reach the process of feeds."""
    live: LiveSettings = current_app.config["LIVE"]
    return live.address.rstrip("/") or f"ws://{request.host.rsplit(':', 1)[0]}:{live.port}"


@routes.post("/productions/<production>/feed")
@checked(gives=FeedDoor)
def open_feed(production: str) -> Response:
    """The address of the process of feeds, and a ticket that opens it within a minute."""
    if not current_app.config["LIVE"].port:
        raise NotFoundError("the process of feeds does not run", hint="Start Dynaface with ./dev start")
    ticket = make_ticket(work(), current_app.config["SECRET_KEY"], production)
    return as_json({"address": feed_origin(), "ticket": ticket})


@routes.post("/productions/<production>/feed/token")
@checked(gives=FeedToken)
def feed_token(production: str) -> Response:
    """A token with which another machine gives commands to the production's feed for 30 days."""
    token = make_ticket(work(), current_app.config["SECRET_KEY"], production, TOKEN)
    return as_json({"token": token, "address": feed_origin().replace("ws", "http", 1)})


@routes.get("/productions/<production>/feed/profiles")
@checked(gives=FeedProfileRows)
def feed_profiles(production: str) -> Response:
    """What performers' live values become."""
    return as_json(list_feed_profiles(work(), production))
