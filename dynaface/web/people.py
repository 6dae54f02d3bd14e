"""Who asks: a session of somebody who signed in, or the one person of a machine that is used alone."""

import logging
from urllib.parse import urlsplit

from flask import Flask, Response, current_app, g, request
from flask.sessions import SecureCookieSessionInterface
from flask_limiter import Limiter
from flask_limiter.util import get_remote_address
from flask_login import LoginManager, UserMixin, current_user, login_user, logout_user

from dynaface.core.errors import DeniedError
from dynaface.core.records.records import Person
from dynaface.services.people.sessions import begin_session, end_session, find_session, list_sessions
from dynaface.services.people.sign_in import change_password, local_person, sign_in
from dynaface.services.work import Work
from dynaface.web.answers import as_json
from dynaface.web.models import NewPassword, Session, SessionsOut, SignIn
from dynaface.web.spec import checked, routes

log = logging.getLogger("dynaface.web")
limiter = Limiter(get_remote_address, storage_uri="memory://", headers_enabled=True)
OPEN = ("/api/health", "/api/session")
SAFE = ("GET", "HEAD")
TRIES, TRIES_OF_ALL = "10 per minute", "60 per minute"


class SignedIn(UserMixin):  # type: ignore[misc]
    """A session as Flask-Login wants one: its id in the cookie is the session's token."""

    def __init__(self, token: str, session: str, person: Person) -> None:
        self.id, self.session, self.person = token, session, person


class _Cookies(SecureCookieSessionInterface):
    def get_cookie_secure(self, app: Flask) -> bool:
        """Over TLS the cookie never travels without it."""
        return request.is_secure


def set_up_sign_in(app: Flask, work: Work, accounts: str) -> None:
    """Sets g.person for every request to the API, or refuses."""
    app.session_interface = _Cookies()
    manager = LoginManager(app)
    limiter.init_app(app)
    alone = local_person(work.store) if accounts == "alone" else None

    @manager.user_loader
    def load(token: str) -> SignedIn | None:
        found = find_session(work.store, token)
        return SignedIn(token, found[1], found[0]) if found else None

    @app.before_request
    def who() -> Response | None:
        if not request.path.startswith("/api/"):
            return None
        _from_the_application()
        g.session = ""
        if alone is not None:
            g.person, g.person_name = alone.id, alone.name
        elif current_user.is_authenticated:
            g.person, g.person_name, g.session = current_user.person.id, current_user.person.name, current_user.session
        elif request.path not in OPEN:
            return as_json({"message": "please sign in", "where": "", "hint": ""}, 401)
        return None


def _from_the_application() -> None:
    """Raises DeniedError for what another site's page makes a browser ask."""
    # Such a page cannot send this header without being asked first, and we never answer yes.
    if request.method not in SAFE and request.headers.get("X-Dynaface") != "1":
        raise DeniedError("this request did not come from the application")
    origin = request.headers.get("Origin")
    if origin is not None and urlsplit(origin).netloc != request.host:
        raise DeniedError("this request came from another site")
    followed = request.headers.get("Sec-Fetch-Mode") == "navigate" and request.method in SAFE
    if request.headers.get("Sec-Fetch-Site") == "cross-site" and not followed:
        raise DeniedError("this request came from another site")


@routes.get("/session")
@checked(gives=Session)
def see_session() -> Response:
    """Who is signed in."""
    if not hasattr(g, "person"):
        return as_json({"message": "please sign in", "where": "", "hint": ""}, 401)
    return as_json(Session(id=g.person, name=g.person_name, alone=current_app.config["ALONE"]).model_dump())


def _name_and_address() -> str:
    """Whose guesses are counted: those of one address for one name, so that nobody is locked out from elsewhere."""
    given = request.get_json(silent=True)
    name = given.get("name") if isinstance(given, dict) else ""
    return f"{get_remote_address()} {str(name)[:80]}"


def _wrong(answer: Response) -> bool:
    return answer.status_code == 403


@routes.post("/session")
@limiter.limit(TRIES, key_func=_name_and_address, deduct_when=_wrong)
@limiter.limit(TRIES_OF_ALL, deduct_when=_wrong)
@checked(takes=SignIn, gives=Session)
def begin() -> Response:
    """Signs in."""
    given: SignIn = request.context.json  # type: ignore[attr-defined]
    store, address = current_app.extensions["dynaface"].store, get_remote_address()
    try:
        person = sign_in(store, given.name, given.password)
    except DeniedError:
        log.warning("a sign-in failed for %r from %s", given.name, address)
        raise
    token = begin_session(store, person, address, str(request.user_agent))
    login_user(SignedIn(token, "", person))
    return as_json(Session(id=person.id, name=person.name, alone=False).model_dump())


@routes.delete("/session")
@checked()
def end() -> Response:
    """Signs out: the session is over on the server too."""
    if getattr(g, "session", ""):
        end_session(current_app.extensions["dynaface"].store, g.person, g.session)
    logout_user()
    return as_json({})


@routes.get("/sessions")
@checked(gives=SessionsOut)
def sessions() -> Response:
    """Where the person is signed in."""
    found = list_sessions(current_app.extensions["dynaface"].store, g.person)
    return as_json([{"id": s.id, "address": s.address, "agent": s.agent, "begun": s.begun, "seen": s.seen,
                     "here": s.id == g.session} for s in found])  # fmt: skip


@routes.delete("/sessions/<session>")
@checked()
def end_one(session: str) -> Response:
    """Ends one of the person's sessions."""
    end_session(current_app.extensions["dynaface"].store, g.person, session)
    return as_json({})


@routes.put("/password")
@limiter.limit(TRIES, key_func=lambda: g.person, deduct_when=_wrong)
@checked(takes=NewPassword)
def password() -> Response:
    """Sets another password and ends the person's other sessions."""
    given: NewPassword = request.context.json  # type: ignore[attr-defined]
    change_password(current_app.extensions["dynaface"].store, g.person, given.old, given.new, g.session)
    return as_json({})
