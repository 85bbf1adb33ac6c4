"""The application: routers, guard, pages."""

from __future__ import annotations

import json
import logging
import secrets
import sqlite3
from collections.abc import AsyncIterator
from contextlib import asynccontextmanager
from importlib import resources
from pathlib import Path

from fastapi import FastAPI, Request
from fastapi.encoders import jsonable_encoder
from fastapi.exceptions import RequestValidationError
from fastapi.responses import HTMLResponse, JSONResponse, PlainTextResponse, Response
from fastapi.staticfiles import StaticFiles

from winnow import __version__
from winnow.api import events, evidence, folders, marks, pictures, plans, shoots
from winnow.api.desk import Desk, MovedShootError
from winnow.api.security import POLICY, Guard
from winnow.store.database import NoRoomError

log = logging.getLogger(__name__)

STATIC = Path(str(resources.files("winnow.api"))) / "static"
NONCE = "winnow-nonce"


def create_app(desk: Desk, *, token: str | None = None) -> FastAPI:
    """The application over a desk, which it starts and stops with itself."""

    @asynccontextmanager
    async def lifespan(_: FastAPI) -> AsyncIterator[None]:
        desk.start()
        yield
        desk.stop()

    app = FastAPI(title="Winnow", version=__version__, lifespan=lifespan, docs_url=None, redoc_url=None)
    app.state.desk = desk
    for module in (shoots, marks, pictures, evidence, plans, folders, events):
        app.include_router(module.router)
    if (STATIC / "assets").is_dir():
        app.mount("/assets", StaticFiles(directory=STATIC / "assets"), name="assets")

    @app.get("/favicon.svg", include_in_schema=False)
    def icon() -> Response:
        return Response((STATIC / "favicon.svg").read_bytes(), media_type="image/svg+xml")

    @app.get("/{path:path}", include_in_schema=False)
    def page(path: str) -> Response:
        """Every other address is a screen of the one page."""
        if path.startswith(("api/", "assets/")):
            return PlainTextResponse("There is nothing at this address.", 404)
        index = STATIC / "index.html"
        if not index.is_file():
            return PlainTextResponse("The interface is not built yet: run 'make setup'.", 503)
        nonce = secrets.token_urlsafe(16)
        html = index.read_text().replace(NONCE, nonce)
        headers = {
            "Content-Security-Policy": POLICY.format(nonce=nonce),
            "Cache-Control": "no-store",
        }
        return HTMLResponse(html, headers=headers)

    @app.exception_handler(RequestValidationError)
    def not_understood(_: Request, error: RequestValidationError) -> Response:
        # What was sent is quoted, and may hold characters that no answer can: escaped, they do.
        text = json.dumps({"detail": jsonable_encoder(error.errors())})
        return Response(text, 422, media_type="application/json")

    app.add_exception_handler(MovedShootError, shoots.moved_shoot)  # type: ignore[arg-type]

    @app.exception_handler(NoRoomError)
    def no_room(_: Request, error: NoRoomError) -> JSONResponse:
        return JSONResponse({"detail": str(error)}, 507)

    @app.exception_handler(sqlite3.Error)
    def database_failed(_: Request, error: sqlite3.Error) -> JSONResponse:
        if desk.database.is_full(error):
            return JSONResponse({"detail": str(NoRoomError(desk.database.path.parent))}, 507)
        log.exception("database", exc_info=error)
        message = f"The database of Winnow failed ({error}): not saved. Check the disk of the data folder."
        return JSONResponse({"detail": message}, 500)

    app.add_middleware(Guard, token=token)
    return app
