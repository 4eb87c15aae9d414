"""The application factory."""

from __future__ import annotations

import gc
import secrets
from datetime import timedelta
from pathlib import Path
from typing import Any

from flask import Response, g, make_response, send_file
from flask_openapi3 import Info, OpenAPI
from flask_talisman import Talisman
from werkzeug.middleware.proxy_fix import ProxyFix
from whitenoise import WhiteNoise

from attentive_owl import web
from attentive_owl.formats.limits import MAX_BYTES
from attentive_owl.settings import Settings
from attentive_owl.store.audio import AudioStore
from attentive_owl.store.session import make_engine
from attentive_owl.web import (
    assigning,
    audit,
    calendar,
    exports,
    inviting,
    observing,
    one_pupil,
    outbox,
    paper,
    passing,
    people,
    practising,
    problems,
    progress,
    sheets,
    shelf,
    signing_in,
    story,
    studio,
    suggesting,
    takes,
    tuning,
    workshop,
)
from attentive_owl.web.access import CsrfByHeader, Services, guard_before_body, make_login_manager
from attentive_owl.web.problems import ProblemError
from attentive_owl.web.schemas.common import Problem

_BESIDE = ("*.js", "*.webmanifest", "*.png")
_FORM_OVERHEAD_BYTES = 64 * 1024
_FEATURES = (
    signing_in,
    inviting,
    audit,
    observing,
    people,
    passing,
    progress,
    story,
    suggesting,
    sheets,
    calendar,
    outbox,
    exports,
    one_pupil,
    workshop,
    paper,
    shelf,
    studio,
    assigning,
    practising,
    takes,
    tuning,
)


def create_app(settings: Settings) -> OpenAPI:
    app = OpenAPI(
        web.__name__,
        info=Info(title="Attentive Owl", version="1"),
        doc_ui=False,
        validation_error_callback=problems.on_validation_error,
        validation_error_model=Problem,
        validation_error_status=422,
        security_schemes={"cookie": {"type": "apiKey", "in": "cookie", "name": "owl"}},
        static_folder=None,
    )
    app.config.update(
        SECRET_KEY=settings.secret_key,
        SESSION_COOKIE_NAME="owl",
        SESSION_COOKIE_HTTPONLY=True,
        SESSION_COOKIE_SAMESITE="Strict",
        SESSION_COOKIE_SECURE=settings.secure_cookies,
        PERMANENT_SESSION_LIFETIME=timedelta(days=60),
        MAX_CONTENT_LENGTH=MAX_BYTES + _FORM_OVERHEAD_BYTES,
        WTF_CSRF_TIME_LIMIT=None,
        WTF_CSRF_HEADERS=["X-CSRF-Token"],
    )
    app.extensions["owl"] = Services(
        settings, make_engine(settings.database_url), AudioStore(settings.audio_url, settings.store_seen)
    )
    problems.register(app)
    make_login_manager().init_app(app)
    guard_before_body(app)
    CsrfByHeader(app)
    _harden(app, settings)
    audit.keep_trail(app)
    observing.observe(app)
    for feature in _FEATURES:
        app.register_api(feature.api)

    _serve_front_end(app, settings.frontend)
    if settings.proxies:
        app.wsgi_app = ProxyFix(app.wsgi_app, x_for=settings.proxies, x_proto=settings.proxies)  # type: ignore[method-assign]
    return app


def _harden(app: OpenAPI, settings: Settings) -> None:
    @app.before_request
    def nonce() -> None:
        g.style_nonce = secrets.token_urlsafe(16)

    Talisman(
        app,
        force_https=False,
        session_cookie_secure=settings.secure_cookies,
        session_cookie_samesite="Strict",
        strict_transport_security=settings.secure_cookies,
        frame_options="DENY",
        referrer_policy="same-origin",
        permissions_policy={"microphone": "(self)", "camera": "()", "geolocation": "()"},
        content_security_policy=None,
    )

    @app.after_request
    def policy(response: Response) -> Response:
        response.headers["Content-Security-Policy"] = "; ".join(
            (
                "default-src 'self'",
                "script-src 'self'",
                f"style-src 'self' 'nonce-{g.get('style_nonce', '')}'",
                "img-src 'self' data:",
                "media-src 'self' blob:",
                "worker-src 'self' blob:",
                "object-src 'none'",
                "base-uri 'none'",
                "form-action 'self'",
                "frame-ancestors 'none'",
            )
        )
        return response


def _serve_front_end(app: OpenAPI, dist: Path) -> None:
    """Hashed files through WhiteNoise (compressed ahead, cached for ever); every other address is the one page."""
    if (dist / "assets").is_dir():
        app.wsgi_app = WhiteNoise(app.wsgi_app, root=str(dist / "assets"), prefix="assets/", max_age=31536000)  # type: ignore[method-assign]

    # The service worker, its manifest and the icons stand beside the page, and are asked for anew each time: an old worker would
    # keep an old page.
    beside = {path.name: path for pattern in _BESIDE for path in dist.glob(pattern)}

    @app.route("/", defaults={"place": ""})
    @app.route("/<path:place>")
    def page(place: str) -> Response:
        if place.startswith(("api/", "assets/")):
            raise ProblemError(404, "There is nothing here.")
        if place in beside:
            return send_file(beside[place], max_age=0)
        index = dist / "index.html"
        if not index.is_file():
            raise ProblemError(503, "The pages are not built yet: run ./start.")
        response = make_response(index.read_text().replace("%STYLE_NONCE%", g.style_nonce))
        response.mimetype = "text/html"
        response.headers["Cache-Control"] = "no-cache"
        return response


def openapi_document() -> dict[str, Any]:
    """The document of the interface; needs no database. That of an application which was only created is empty (see `areas`)."""
    settings = Settings(Path(), "postgresql+psycopg://nobody@127.0.0.1/none", "memory://", "none", Path(), False)
    for feature in _FEATURES:
        feature.api.describe()
    return create_app(settings).api_doc


def make_wsgi() -> OpenAPI:
    """For gunicorn: attentive_owl.web.app:make_wsgi()."""
    from attentive_owl.settings import load_settings

    app = create_app(load_settings())
    settle()
    return app


def settle() -> None:
    """What is there at the start stays: looking through it again and again would hold every twentieth answer for a sixth of a second."""
    gc.collect()
    gc.freeze()
