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
    if device is not None and device.proposes:
        return device.name  # signed by the device: another name could be anybody's
    return clean_label(unquote(winnow_actor or "")) or (device.name if device else PERSON)


Actor = Annotated[str, Depends(_actor)]
"""The name of whoever acts."""


async def _proposes(request: Request) -> bool:
    device: Device | None = request.scope.get("device")
    return device is not None and device.proposes


Proposes = Annotated[bool, Depends(_proposes)]
"""Whether what they mark is a proposal."""
