"""Marks that somebody proposes: they stand on the frame, signed, and count for nothing that leaves until whoever runs
Winnow takes them over. A proposal never changes what is no proposal."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass

from winnow.core.marks import UNMARKED, Field, Marks, Value, value_of

PROPOSED = (Field.DECISION, Field.RATING, Field.LABEL)
"""What can be proposed."""


@dataclass(frozen=True, slots=True)
class Proposal:
    """Which marks of a frame are a proposal, and of whom."""

    fields: frozenset[Field]
    by: str

    def __str__(self) -> str:
        return f"{','.join(sorted(self.fields))} {self.by}"

    @classmethod
    def parse(cls, text: str) -> Proposal:
        """The opposite of `str`. Raises ValueError for anything else."""
        fields, space, by = text.partition(" ")
        found = frozenset(map(Field, fields.split(",")))
        if not space or not by or not found <= set(PROPOSED):
            raise ValueError("This is no proposal.")
        return cls(found, by)


def propose(
    held: Marks, standing: Proposal | None, wanted: Mapping[Field, Value], by: str
) -> tuple[dict[Field, Value], Proposal | None]:
    """What of some marks may be set as a proposal, and the proposal that there is then. What was decided already, and
    not by a proposal, stays."""
    before = standing.fields if standing else frozenset()
    allowed = {
        field: value
        for field, value in wanted.items()
        if field in PROPOSED and (field in before or value_of(held, field) == value_of(UNMARKED, field))
    }
    said = {field for field, value in allowed.items() if value != value_of(UNMARKED, field)}
    fields = (before - set(allowed)) | said
    if not allowed:
        return {}, standing
    return allowed, Proposal(fields, by) if fields else None


def settle(standing: Proposal | None, fields: frozenset[Field]) -> Proposal | None:
    """What is left of a proposal when somebody who does not propose has set these marks, to whatever."""
    if standing is None or not standing.fields - fields:
        return None
    return Proposal(standing.fields - fields, standing.by)


def turned_down(standing: Proposal) -> dict[Field, Value]:
    """The marks without what was proposed: nothing stood there before."""
    return {field: value_of(UNMARKED, field) for field in standing.fields}
