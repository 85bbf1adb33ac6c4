"""The application: routers, guard, pages."""

from __future__ import annotations

import secrets
from collections.abc import AsyncIterator, Callable, Sequence
from contextlib import asynccontextmanager
from importlib import resources
from pathlib import Path
from typing import Any

from fastapi import FastAPI
from fastapi.openapi.utils import get_openapi
from fastapi.responses import HTMLResponse, PlainTextResponse, Response
from fastapi.staticfiles import StaticFiles

from winnow import __version__
from winnow.api import (
    archives,
    cards,
    clocks,
    company,
    editors,
    entry,
    events,
    evidence,
    filters,
    folders,
    history,
    labels,
    lists,
    marks,
    name_patterns,
    passes,
    pictures,
    plans,
    problems,
    proofs,
    proposals,
    searching,
    settings,
    shoots,
    sync,
    upkeep,
    words,
)
from winnow.api.desk import Desk, MovedShootError
from winnow.api.entry_codes import Devices, EntryCodes
from winnow.api.idempotency import KeysInProgress
from winnow.api.limits import BodyLimit
from winnow.api.problems import Code
from winnow.api.security import POLICY, Guard

STATIC = Path(str(resources.files("winnow.api"))) / "static"
NONCE = "winnow-nonce"
LIBRARY = "winnow-library-id"


def create_app(
    desk: Desk,
    *,
    codes: EntryCodes | None = None,
    token: str | None = None,
    anywhere: bool = False,
    addresses: Sequence[str] = (),
    only_addresses: bool = False,
    end: Callable[[], None] | None = None,
) -> FastAPI:
    """The application over a desk, which it starts and stops with itself. codes, token, anywhere: see
    `security.Guard`; addresses: where other machines reach it; only_addresses: refuse any other name for it; end:
    ends the server."""

    @asynccontextmanager
    async def lifespan(_: FastAPI) -> AsyncIterator[None]:
        desk.start()
        yield
        desk.stop()

    app = FastAPI(
        title="Winnow",
        version=__version__,
        lifespan=lifespan,
        docs_url=None,
        redoc_url=None,
        separate_input_output_schemas=False,
    )
    app.state.desk = desk
    app.state.is_private = token is not None
    app.state.codes = codes or EntryCodes()
    app.state.end = end
    app.state.addresses = list(addresses)
    app.state.devices = Devices(desk.database)
    app.state.keys_in_progress = KeysInProgress()
    for module in (
        shoots,
        cards,
        filters,
        marks,
        words,
        passes,
        history,
        labels,
        lists,
        archives,
        pictures,
        evidence,
        clocks,
        plans,
        sync,
        proofs,
        proposals,
        name_patterns,
        editors,
        folders,
        settings,
        searching,
        upkeep,
        entry,
        company,
        events,
    ):
        app.router.routes += module.router.routes
    if (STATIC / "assets").is_dir():
        app.mount("/assets", StaticFiles(directory=STATIC / "assets"), name="assets")

    @app.get("/favicon.svg", include_in_schema=False)
    def icon() -> Response:
        return Response((STATIC / "favicon.svg").read_bytes(), media_type="image/svg+xml")

    @app.get("/{path:path}", include_in_schema=False)
    def page(path: str) -> Response:
        """Every other address is a screen of the one page."""
        if path.startswith("api/"):
            return problems.response(Code.NOTHING_HERE, "There is nothing at this address.")
        if path.startswith("assets/"):
            return PlainTextResponse("There is nothing at this address.", 404)
        index = STATIC / "index.html"
        if not index.is_file():
            return PlainTextResponse("The interface is not built yet: run 'make setup'.", 503)
        nonce = secrets.token_urlsafe(16)
        html = index.read_text().replace(NONCE, nonce).replace(LIBRARY, desk.library)
        headers = {
            "Content-Security-Policy": POLICY.format(nonce=nonce),
            "Cache-Control": "no-store",
        }
        return HTMLResponse(html, headers=headers)

    problems.install(app, desk.database)
    app.add_exception_handler(MovedShootError, shoots.moved_shoot)  # type: ignore[arg-type]
    app.add_middleware(BodyLimit)
    app.add_middleware(
        Guard,
        codes=app.state.codes,
        devices=app.state.devices,
        token=token,
        anywhere=anywhere,
        addresses=addresses if only_addresses else (),
    )
    app.openapi = lambda: _document(app)  # type: ignore[method-assign]
    return app


def _document(app: FastAPI) -> dict[str, Any]:
    """The OpenAPI document, with the problems that routes refer to."""
    if app.openapi_schema is None:
        app.openapi_schema = get_openapi(title=app.title, version=app.version, routes=app.routes)
        parts = app.openapi_schema["components"]["schemas"]
        problem = problems.Problem.model_json_schema(ref_template="#/components/schemas/{model}")
        parts |= problem.pop("$defs") | {"Problem": problem}
    return app.openapi_schema
