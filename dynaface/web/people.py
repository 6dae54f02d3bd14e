"""Who asks: a session cookie, or the one person of a machine that is used alone."""

from flask import Flask, Response, current_app, g, request
from flask_limiter import Limiter
from flask_limiter.util import get_remote_address
from flask_login import LoginManager, UserMixin, current_user, login_user, logout_user

from dynaface.core.errors import DeniedError
from dynaface.core.records.records import Person
from dynaface.services.people.sign_in import find_person, local_person, sign_in
from dynaface.services.work import Work
from dynaface.web.answers import as_json
from dynaface.web.models import Session, SignIn
from dynaface.web.spec import checked, routes

limiter = Limiter(get_remote_address, storage_uri="memory://")
OPEN = ("/api/health", "/api/session")


class SignedIn(UserMixin):  # type: ignore[misc]
    """A person as Flask-Login wants one."""

    def __init__(self, person: Person) -> None:
        self.id = person.id
        self.name = person.name


def set_up_sign_in(app: Flask, work: Work, accounts: str) -> None:
    """Sets g.person for every request to the API, or refuses."""
    manager = LoginManager(app)
    limiter.init_app(app)
    alone = local_person(work.store) if accounts == "alone" else None

    @manager.user_loader
    def load(identity: str) -> SignedIn | None:
        person = find_person(work.store, identity)
        return SignedIn(person) if person else None

    @app.before_request
    def who() -> Response | None:
        if not request.path.startswith("/api/"):
            return None
        # A page of another origin cannot send this header without being asked first, and we never answer yes.
        if request.method not in ("GET", "HEAD") and request.headers.get("X-Dynaface") != "1":
            raise DeniedError("this request did not come from the application")
        if alone is not None:
            g.person, g.person_name = alone.id, alone.name
        elif current_user.is_authenticated:
            g.person, g.person_name = current_user.id, current_user.name
        elif request.path not in OPEN:
            return as_json({"message": "please sign in", "where": "", "hint": ""}, 401)
        return None


@routes.get("/session")
@checked(gives=Session)
def see_session() -> Response:
    """Who is signed in."""
    if not hasattr(g, "person"):
        return as_json({"message": "please sign in", "where": "", "hint": ""}, 401)
    return as_json(Session(id=g.person, name=g.person_name, alone=current_app.config["ALONE"]).model_dump())


@routes.post("/session")
@limiter.limit("10 per minute")
@checked(takes=SignIn, gives=Session)
def begin_session() -> Response:
    """Signs in."""
    given: SignIn = request.context.json  # type: ignore[attr-defined]
    person = sign_in(current_app.extensions["dynaface"].store, given.name, given.password)
    login_user(SignedIn(person))
    return as_json(Session(id=person.id, name=person.name, alone=False).model_dump())


@routes.delete("/session")
@checked()
def end_session() -> Response:
    """Signs out."""
    logout_user()
    return as_json({})
