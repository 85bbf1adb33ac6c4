"""Who does what a request does, where several people use one server."""

from __future__ import annotations

from typing import Annotated
from urllib.parse import unquote

from fastapi import Depends, Header, Request

from winnow.core.marks import clean_label
from winnow.store.devices import Device

PERSON = "person"
"""Whoever gave no name."""


async def _actor(
    request: Request,
    winnow_actor: Annotated[
        str | None, Header(max_length=1000, description="Name of whoever acts, percent-encoded UTF-8.")
    ] = None,
) -> str:
    device: Device | None = request.scope.get("device")
    return clean_label(unquote(winnow_actor or "")) or (device.name if device else PERSON)


Actor = Annotated[str, Depends(_actor)]
"""The name of whoever acts."""
