"""Answers that are sent only if they have changed.

Source: RFC 9110, sections 8.8.3 (ETag) and 13.1.2 (If-None-Match).
"""

from __future__ import annotations

import hashlib
import secrets
from typing import Annotated, Any

from fastapi import Depends, Header, Response

NOT_MODIFIED: dict[int | str, dict[str, Any]] = {304: {"description": "What the client has is still right."}}

_RUN = secrets.token_hex(8)
"""Tags hold for one run: another may serve another data folder at the same address."""


class Conditional:
    """The condition that a request came with."""

    def __init__(self, known: str) -> None:
        self.known = known
        self.headers: dict[str, str] = {}

    def unchanged(self, *makes: object) -> Response | None:
        """The answer to who has the right one already; else None, and `headers` go with the answer.

        makes: all that the answer depends on.
        """
        digest = hashlib.blake2b(repr((_RUN, makes)).encode(), digest_size=12).hexdigest()
        tag = f'W/"{digest}"'
        self.headers = {"ETag": tag, "Cache-Control": "no-cache"}
        if tag in self.known or self.known.strip() == "*":
            return Response(status_code=304, headers=self.headers)
        return None


async def _condition(if_none_match: Annotated[str | None, Header(max_length=4000)] = None) -> Conditional:
    return Conditional(if_none_match or "")


OnCondition = Annotated[Conditional, Depends(_condition)]
