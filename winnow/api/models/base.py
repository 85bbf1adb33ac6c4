"""What all that travels is made of."""

from __future__ import annotations

from datetime import UTC, datetime
from typing import Annotated, Any

from pydantic import AfterValidator, BaseModel, ConfigDict, Field, StringConstraints

Id = Annotated[int, Field(ge=1, le=2**63 - 1)]
"""As the database numbers things."""


BodyId = Annotated[Id, Field(strict=True)]
"""In a body numbers are numbers; in addresses they are text that reads as one."""


Revision = Annotated[int, Field(ge=0, le=2**63 - 1)]


Finite = Annotated[float, Field(allow_inf_nan=False)]


def _speakable(path: str) -> str:
    if "\0" in path:
        raise ValueError("a path holds no NUL")
    return path


PathText = Annotated[str, Field(min_length=1, max_length=4096), AfterValidator(_speakable)]


SavedName = Annotated[str, StringConstraints(strip_whitespace=True, min_length=1, max_length=80)]
"""What something is saved under: never blank. Answers do not use it: what is stored already is shown as it is."""


CaptureTime = Annotated[
    str,
    Field(description="ISO 8601, with the offset where the camera gave one, else the camera's own time."),
]


def moment(text: str) -> datetime:
    """A time as the database keeps it (ISO 8601, UTC)."""
    found = datetime.fromisoformat(text)
    return found if found.tzinfo else found.replace(tzinfo=UTC)


def shown(*examples: dict[str, Any]) -> ConfigDict:
    """Examples of a model, for its schema."""
    return ConfigDict(json_schema_extra={"examples": list(examples)})


class Model(BaseModel):
    model_config = ConfigDict(extra="forbid", from_attributes=True)
