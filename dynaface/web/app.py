"""The Flask application: routes, errors, headers, and the built pages."""

from flask import Flask, Response, request, send_from_directory
from werkzeug.middleware.proxy_fix import ProxyFix

from dynaface.core.errors import NotFoundError
from dynaface.services.media.receive_upload import MAX_BODY
from dynaface.services.work import Work
from dynaface.settings import LOOPBACK, Settings
from dynaface.web import (
    cast,
    docs_page,
    dots,
    feeds,
    footage,
    handovers,
    lineups,
    markers,
    matches,
    productions,
    shots,
    speech,
    takes,
    tidy,
    uploads,
)
from dynaface.web.answers import pack
from dynaface.web.door import guard_json
from dynaface.web.errors import handle_errors
from dynaface.web.feeds import feed_origin
from dynaface.web.people import set_up_sign_in
from dynaface.web.spec import routes, spec

VIEWS = (
    cast,
    docs_page,
    dots,
    feeds,
    footage,
    handovers,
    lineups,
    matches,
    markers,
    productions,
    shots,
    speech,
    takes,
    tidy,
    uploads,
)  # importing a module registers its views
POLICY = (
    "default-src 'self'; style-src 'self' 'unsafe-inline'; img-src 'self' data: blob:; media-src 'self' blob:; "
    "connect-src 'self' blob:; worker-src 'self' blob:; font-src 'self' data:; object-src 'none'; frame-ancestors 'none'; "
    "base-uri 'self'; form-action 'self'"
)
HEADERS = {
    "Content-Security-Policy": POLICY,
    "X-Content-Type-Options": "nosniff",
    "X-Frame-Options": "DENY",
    "Referrer-Policy": "same-origin",
    "Cross-Origin-Opener-Policy": "same-origin",
    "Cross-Origin-Resource-Policy": "same-origin",
    "Permissions-Policy": "camera=(self), microphone=(self), fullscreen=(self), geolocation=(), payment=(), usb=()",
}


def add_views(app: Flask) -> None:
    """Registers all views and their description."""
    app.register_blueprint(routes)
    spec.register(app)


def make_app(work: Work, settings: Settings) -> Flask:
    """The application around a store."""
    app = Flask("dynaface", static_folder=None)
    app.config.update(
        SECRET_KEY=settings.secret,
        MAX_CONTENT_LENGTH=MAX_BODY,
        SESSION_COOKIE_HTTPONLY=True,
        SESSION_COOKIE_SAMESITE="Lax",
        SESSION_COOKIE_NAME="dynaface",
        LIVE=settings.live,
        ALONE=settings.accounts == "alone",
        # Other names are refused: a page elsewhere whose name is made to lead here would else pass for ours.
        TRUSTED_HOSTS=[*LOOPBACK, *settings.hosts],
    )
    if settings.proxies:
        # Else all who sign in through a proxy would share its address, and one limit.
        app.wsgi_app = ProxyFix(app.wsgi_app, x_for=settings.proxies, x_proto=settings.proxies)  # type: ignore[method-assign]
    app.extensions["dynaface"] = work
    guard_json(app)
    handle_errors(app)
    set_up_sign_in(app, work, settings.accounts)
    add_views(app)

    @app.after_request
    def headers(answer: Response) -> Response:
        answer.headers.update(HEADERS)
        if settings.live.port:
            allowed = f"connect-src 'self' {feed_origin()}"
            answer.headers["Content-Security-Policy"] = POLICY.replace("connect-src 'self'", allowed)
        if request.path.startswith("/api/") and "Cache-Control" not in answer.headers:
            answer.headers["Cache-Control"] = (
                "no-store"  # what people work on stays in no cache that says nothing of it
            )
        pack(answer)  # after what was answered has been checked against the API's description
        return answer

    @app.get("/")
    @app.get("/<path:path>")
    def pages(path: str = "") -> Response:
        if path.startswith("api/"):
            raise NotFoundError("there is no such address in the API")
        file = path if path.startswith("assets/") or path.endswith((".svg", ".png")) else "index.html"
        answer = send_from_directory(settings.frontend, file)
        if file.startswith("assets/"):
            answer.cache_control.max_age = 31536000
        else:
            answer.cache_control.no_cache = True
        return answer

    return app
