"""Answers that are sent only if they have changed.

Source: RFC 9110, sections 8.8.3 (ETag) and 13.1.2 (If-None-Match).
"""

from __future__ import annotations

import hashlib
from collections.abc import Callable
from typing import Annotated, Any

from fastapi import Depends, Header, Response

NOT_MODIFIED: dict[int | str, dict[str, Any]] = {304: {"description": "What the client has is still right."}}


class Unchanged(Response):
    """The answer to who has it already."""

    def __init__(self, tag: str) -> None:
        super().__init__(status_code=304, headers={"ETag": tag, "Cache-Control": "no-cache"})


def _tagging(
    response: Response, if_none_match: Annotated[str | None, Header(max_length=4000)] = None
) -> Callable[..., Unchanged | None]:
    def tag(*makes: object) -> Unchanged | None:
        """What the answer depends on, all of it; gives the answer if the client has it."""
        digest = hashlib.blake2b(repr(makes).encode(), digest_size=12).hexdigest()
        name = f'W/"{digest}"'
        if if_none_match and (if_none_match.strip() == "*" or name in if_none_match):
            return Unchanged(name)
        response.headers["ETag"] = name
        response.headers["Cache-Control"] = "no-cache"
        return None

    return tag


Tag = Annotated[Callable[..., Unchanged | None], Depends(_tagging)]
