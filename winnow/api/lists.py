"""Lists of frames to be saved."""

from __future__ import annotations

from typing import Annotated

from fastapi import Query, Response

from winnow.api.desk import SHOOT_PROBLEMS, OfShoot, OnDesk
from winnow.api.models.lists import ListColumn
from winnow.api.problems import Code, ProblemError, answers
from winnow.api.routes import routes
from winnow.api.viewing import Wanted
from winnow.core import lists as rules
from winnow.formats.lists import ENDINGS, MEDIA_TYPES, Form
from winnow.pipeline.lists import list_of

router = routes("/api", "lists")


@router.get("/list-columns", responses=answers())
def list_columns() -> list[ListColumn]:
    """The columns that a list can have; usual: where none are named."""
    return [ListColumn(id=one.id, title=one.title, usual=one.id in rules.USUAL) for one in rules.COLUMNS]


@router.get(
    "/shoots/{shoot_id}/list",
    responses={
        **answers(*SHOOT_PROBLEMS, Code.CANNOT_BE_DONE),
        200: {"content": {kind: {} for kind in MEDIA_TYPES.values()}},
    },
    response_class=Response,
)
def save_list(
    desk: OnDesk,
    shoot: OfShoot,
    wanted: Wanted,
    form: Form = Form.CSV,
    columns: Annotated[list[str], Query(max_length=50)] = [],  # noqa: B006
) -> Response:
    """The frames that pass a filter, in capture order, as a file."""
    connection, census = desk.database.connection(), desk.census(shoot.id)
    try:
        text = list_of(connection, census, wanted.filter, wanted.labels, form, columns)
    except ValueError as error:
        raise ProblemError(Code.CANNOT_BE_DONE, str(error)) from error
    headers = {"Content-Disposition": f'attachment; filename="frames.{ENDINGS[form]}"'}
    return Response(text, media_type=MEDIA_TYPES[form], headers=headers)
