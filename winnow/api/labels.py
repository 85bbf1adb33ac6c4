"""Labels: what the person defined, changed as a whole, exported and imported as it is sent."""

from __future__ import annotations

from sqlite3 import Connection

from winnow.api.desk import Desk, OnDesk, now
from winnow.api.models.labels import Labels, LabelsWish, LabelUse
from winnow.api.problems import CHANGING, Code, ProblemError, answers
from winnow.api.routes import routes
from winnow.core import sentence
from winnow.core.labels import HEX, LabelSet
from winnow.store import labels, named_filters, passes

router = routes("/api/labels", "labels")


@router.get("", responses=answers())
def get_labels(desk: OnDesk) -> Labels:
    """The labels in force."""
    return _view(desk)


@router.put("", responses=answers(*CHANGING, Code.CANNOT_BE_DONE, Code.OVERTAKEN))
def change_labels(desk: OnDesk, wish: LabelsWish) -> Labels:
    """Labels from now on. Frames keep theirs: one that is not defined any more is shown by the text it has."""
    try:
        wanted = labels.from_json(wish.model_dump())
    except ValueError as error:
        raise ProblemError(Code.CANNOT_BE_DONE, str(error)) from error
    with desk.database.transaction() as connection:
        before = labels.current(connection)
        if labels.version(connection)[0] != wish.version:
            raise ProblemError(
                Code.OVERTAKEN, "The labels were changed elsewhere meanwhile: look at them again."
            )
        labels.define(connection, wanted, wish.said, now())
        _say_anew(connection, before, wanted)
    return _told(desk)


@router.post("/undo", responses=answers(*CHANGING, Code.OVERTAKEN))
def take_back_labels(desk: OnDesk) -> Labels:
    """The labels as they were before the last change."""
    with desk.database.transaction() as connection:
        if labels.version(connection)[0] == 0:
            raise ProblemError(Code.OVERTAKEN, "The labels are as they were at first.")
        before = labels.current(connection)
        labels.take_back(connection)
        after = labels.current(connection)
        _say_anew(connection, before, after)
    return _told(desk)


@router.get("/use", responses=answers())
def list_label_use(desk: OnDesk) -> list[LabelUse]:
    """What stands on frames as their label, and on how many."""
    connection = desk.database.connection()
    named = labels.current(connection)
    return [
        LabelUse(text=text, label=found.id if (found := named.of(text)) else None, frames=n, shoots=shoots)
        for text, (n, shoots) in labels.use(connection).items()
    ]


def _say_anew(connection: Connection, before: LabelSet, after: LabelSet) -> None:
    """All sentences that are kept, with the names of labels of now."""
    for kept in (named_filters, passes):
        kept.say_anew(connection, lambda said: _in_other_words(said, before, after))


def _in_other_words(said: str, before: LabelSet, after: LabelSet) -> str:
    """A sentence that means the same labels under their names of now."""
    try:
        return sentence.say(sentence.parse(said, before), after)
    except sentence.SentenceError:
        return said


def _told(desk: Desk) -> Labels:
    """The labels in force; who listens hears of them."""
    desk.events.publish("labels")
    return _view(desk)


def _view(desk: Desk) -> Labels:
    connection = desk.database.connection()
    number, last = labels.version(connection)
    kept = labels.as_json(labels.current(connection))
    return Labels.model_validate({**kept, "version": number, "last": last, "colours": HEX})
