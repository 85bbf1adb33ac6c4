"""Undo and redo as a walk over batches. The journal only grows; undoing adds a batch."""

from __future__ import annotations

from collections.abc import Iterable
from dataclasses import dataclass
from enum import StrEnum


class BatchKind(StrEnum):
    """MARK: a person's action. UNDO and REDO revert one. IMPORT: marks read from files,
    which were there before the person's first key and are not theirs to undo."""

    MARK = "mark"
    UNDO = "undo"
    REDO = "redo"
    IMPORT = "import"


@dataclass(frozen=True, slots=True)
class BatchRef:
    """A batch in the order it was written; `reverts` names the batch that an undo took back
    or a redo brought back."""

    id: int
    kind: BatchKind
    reverts: int | None = None


@dataclass(frozen=True, slots=True)
class History:
    """The batches that can be taken back and those that can be brought back, the next one last."""

    done: tuple[int, ...]
    undone: tuple[int, ...]

    @property
    def undo(self) -> int | None:
        """What one step back would act on."""
        return self.done[-1] if self.done else None

    @property
    def redo(self) -> int | None:
        """What one step forward would act on."""
        return self.undone[-1] if self.undone else None


def walk(batches: Iterable[BatchRef]) -> History:
    """Both stacks after all of `batches` in the order of writing."""
    done: list[int] = []
    undone: list[int] = []
    for batch in batches:
        match batch.kind:
            case BatchKind.MARK:
                done.append(batch.id)
                undone.clear()
            case BatchKind.UNDO:
                done.remove(_reverted(batch))
                undone.append(_reverted(batch))
            case BatchKind.REDO:
                undone.remove(_reverted(batch))
                done.append(_reverted(batch))
            case BatchKind.IMPORT:
                pass
    return History(tuple(done), tuple(undone))


def _reverted(batch: BatchRef) -> int:
    if batch.reverts is None:
        raise ValueError(f"Batch {batch.id} is an {batch.kind} of nothing.")
    return batch.reverts
