"""Where the operations of a topic are gathered."""

from __future__ import annotations

from fastapi import APIRouter


def routes(prefix: str, tag: str) -> APIRouter:
    """A router for operations that go by the names of their functions. The application takes its routes as they are:
    FastAPI's `include_router` works each of them out a second time, at the first request, and somebody looks at an
    empty window for it."""
    return APIRouter(prefix=prefix, tags=[tag], generate_unique_id_function=lambda route: route.name)
