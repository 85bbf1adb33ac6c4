"""Proof sets for clients, contact sheets, and the answers that come back as marks."""

from __future__ import annotations

import secrets
from collections.abc import Callable, Sequence
from sqlite3 import Connection
from urllib.parse import quote

from fastapi import Response

from winnow.api.acting import InManner, act
from winnow.api.desk import (
    FRAME_PROBLEMS,
    SHOOT_PROBLEMS,
    Desk,
    FolderRefusedError,
    OfShoot,
    OnDesk,
    demand_frames_of,
    now,
)
from winnow.api.idempotency import InIdempotency
from winnow.api.models.base import Id, moment
from winnow.api.models.marks import Marked
from winnow.api.models.proofs import (
    AnswerRead,
    AnswersView,
    AnswerTaken,
    AnswerText,
    As,
    DoubtView,
    KeptAnswerView,
    NamedFrame,
    ProofMade,
    ProofView,
    ProofWish,
    SheetWish,
)
from winnow.api.plans import MAKING, make_for
from winnow.api.problems import CHANGING, Code, ProblemError, answers
from winnow.api.routes import routes
from winnow.core.answer import Item, Verdict, read_given, read_text
from winnow.core.history import BatchKind
from winnow.core.marks import Field, Marks, Value, in_words
from winnow.core.pairing import fold
from winnow.core.proof import Proof
from winnow.formats.answers import read_file
from winnow.formats.contact_sheet import Sheet, SheetPicture, contact_sheet
from winnow.handoff.chosen import frames_of_plan
from winnow.handoff.draft import PlanError, Wish
from winnow.handoff.proofs import items as items_of
from winnow.pipeline.cache import Kind
from winnow.store import frames, labels, marks, plans, proofs
from winnow.store.plans import PlanKind

router = routes("/api/shoots/{shoot_id}", "proofs")

PDF = "application/pdf"
MOST_ON_SHEETS = 3000


@router.get("/answers", responses=answers(*SHOOT_PROBLEMS))
def list_answers(desk: OnDesk, shoot: OfShoot) -> AnswersView:
    """The proof sets of a shoot, and what clients answered."""
    connection = desk.database.connection()
    kept = proofs.answers_of(connection, shoot.id)
    views = [
        KeptAnswerView(
            id=one.id,
            client=one.client,
            at=moment(one.at),
            liked=[i for i, verdict, _ in one.said if verdict is Verdict.LIKE],
            refused=[i for i, verdict, _ in one.said if verdict is Verdict.NO],
            comments={i: comment for i, _, comment in one.said if comment},
        )
        for one in kept
    ]
    return AnswersView(
        proofs=[
            ProofView(id=one.id, title=one.title, made_at=moment(one.made_at), frames=one.frames)
            for one in proofs.of_shoot(connection, shoot.id)
        ],
        answers=views,
        agreed=_agreed(views),
    )


def _agreed(views: Sequence[KeptAnswerView]) -> list[int]:
    """What every client likes; the last answer of each counts."""
    last = {fold(view.client): view for view in reversed(views)}
    if len(last) < 2:
        return []
    first, *others = last.values()
    return [i for i in first.liked if all(i in other.liked for other in others)]


@router.post("/proofs", responses=MAKING)
def make_proof(desk: OnDesk, shoot: OfShoot, wish: ProofWish, idempotency: InIdempotency) -> ProofMade:
    """Plans a proof set: nothing is made until the plan is applied."""
    if wish.frames:
        demand_frames_of(desk, shoot, wish.frames)
    try:
        target = str(desk.allowed(wish.target))
        said = wish.model_dump(exclude={"target", "show", "frames"})
        proof = Proof(**said, id=secrets.token_hex(8))
    except FolderRefusedError as error:
        raise ProblemError(Code.FOLDER_REFUSED, str(error)) from error
    except ValueError as error:
        raise ProblemError(Code.CANNOT_BE_DONE, str(error)) from error
    wanted = Wish(PlanKind.PROOF, target, show=wish.show.strip(), frames=tuple(wish.frames), proof=proof)
    plan = make_for(desk, shoot.id, wanted, idempotency)
    connection = desk.database.connection()
    items = items_of(connection, frames_of_plan(connection, shoot.id, wanted))
    made = plans.get(connection, plan.id)
    assert made is not None
    proof_id = str(made.wish["proof"]["id"])  # of the plan that the same request made before, if it did
    with desk.database.transaction() as connection:
        proofs.keep(connection, shoot.id, proof_id, proof.title, items, now())
    return ProofMade(proof=proof_id, plan=plan)


@router.post(
    "/answers/read",
    responses=answers(*FRAME_PROBLEMS, *CHANGING, Code.NOT_OF_THIS_SHOOT, Code.CANNOT_BE_DONE),
)
def read_answer(desk: OnDesk, shoot: OfShoot, wish: AnswerText) -> AnswerRead:
    """Says which frames an answer names, and what could not be told. Nothing is marked."""
    connection = desk.database.connection()
    file = read_file(wish.text)
    proof = wish.proof or file.proof or None
    items = proofs.items_of(connection, shoot.id, proof) if proof else []
    if proof and not items and not wish.frames:
        raise ProblemError(
            Code.CANNOT_BE_DONE,
            "This answer is to a proof set of another shoot: open that one, and read it there.",
        )
    if not items:
        proof = None
        if wish.frames:
            demand_frames_of(desk, shoot, wish.frames)
        names = frames.names(connection, wish.frames)
        items = [
            Item(n, name, frame_id)
            for n, (name, frame_id) in enumerate(zip(names, wish.frames, strict=True), 1)
        ]
    if not items:
        raise ProblemError(Code.CANNOT_BE_DONE, "Say which pictures the client saw: a proof set, or frames.")
    found = read_text(wish.text, items) if file.given is None else read_given(file.given, items)
    return AnswerRead(
        client=file.client[:80],
        proof=proof,
        named=[NamedFrame.model_validate(one) for one in found.named],
        doubts=[
            DoubtView(quote=one.quote, why=one.why, suggested=list(one.suggested)) for one in found.doubts
        ],
        numbers={item.frame_id: item.number for item in items},
    )


@router.post(
    "/answers",
    responses=answers(
        *SHOOT_PROBLEMS,
        *CHANGING,
        Code.FRAME_UNKNOWN,
        Code.NOT_OF_THIS_SHOOT,
        Code.CANNOT_BE_DONE,
        Code.NOT_NOW,
    ),
)
def take_answer(desk: OnDesk, shoot: OfShoot, wish: AnswerTaken, manner: InManner) -> Marked:
    """Keeps an answer, and makes marks of it as one action of the client."""
    demand_frames_of(desk, shoot, [one.frame_id for one in wish.said])
    client = wish.client.strip()
    if not client:
        raise ProblemError(Code.CANNOT_BE_DONE, "Say who answered.")
    wanted: dict[int, dict[Field, Value]] = {}
    for one in wish.said:
        mark = _as(wish.liked if one.verdict is Verdict.LIKE else wish.refused)
        if mark and one.verdict is not Verdict.NONE:
            wanted[one.frame_id] = mark
    liked = sum(one.verdict is Verdict.LIKE for one in wish.said)
    title = f"answer of {client}: {liked} liked, {sum(one.verdict is Verdict.NO for one in wish.said)} not"
    said = [(one.frame_id, one.verdict, one.comment) for one in wish.said]

    def keep(connection: Connection) -> marks.Batch | None:
        proofs.keep_answer(connection, shoot.id, client, said, now())
        return marks.set_marks(
            connection,
            shoot.id,
            wanted,
            kind=BatchKind.MARK,
            actor=f"client {client}",
            title=title,
            now=now(),
        )

    return act(desk, shoot.id, manner, keep)


def _as(mark: As | None) -> dict[Field, Value]:
    if mark is None:
        return {}
    return {Field(mark.field): mark.value.value if hasattr(mark.value, "value") else mark.value}


@router.delete("/answers/{answer_id}", status_code=204, responses=answers(*SHOOT_PROBLEMS, *CHANGING))
def forget_answer(desk: OnDesk, shoot: OfShoot, answer_id: Id) -> None:
    """Forgets an answer. Marks that were made of it stay; the history takes them back."""
    with desk.database.transaction() as connection:
        proofs.forget_answer(connection, shoot.id, answer_id)


@router.post(
    "/contact-sheet",
    responses={
        **answers(
            *SHOOT_PROBLEMS, *CHANGING, Code.FRAME_UNKNOWN, Code.NOT_OF_THIS_SHOOT, Code.CANNOT_BE_DONE
        ),
        200: {"content": {PDF: {}}},
    },
    response_class=Response,
)
def make_contact_sheet(desk: OnDesk, shoot: OfShoot, wish: SheetWish) -> Response:
    """Pages of pictures with numbers, names and marks, made of the previews that are there."""
    if wish.frames:
        demand_frames_of(desk, shoot, wish.frames)
    connection = desk.database.connection()
    try:
        chosen = frames_of_plan(
            connection, shoot.id, Wish(PlanKind.PROOF, show=wish.show, frames=tuple(wish.frames))
        )
    except PlanError as error:
        raise ProblemError(Code.CANNOT_BE_DONE, str(error)) from error
    if not chosen:
        raise ProblemError(Code.CANNOT_BE_DONE, "There is no frame to print: choose others.")
    if len(chosen) > MOST_ON_SHEETS:
        raise ProblemError(Code.CANNOT_BE_DONE, f"At most {MOST_ON_SHEETS:,} frames at once: choose fewer.")
    sheet = Sheet(
        wish.title.strip() or shoot.title,
        wish.columns,
        wish.rows,
        wish.paper,
        wish.names,
        wish.marks,
        tuple(_on_sheet(desk, chosen)),
    )
    content = desk.engine.run_apart(contact_sheet, sheet).result()
    headers = {"Content-Disposition": f"attachment; filename*=UTF-8''{quote(sheet.title)}.pdf"}
    return Response(content, media_type=PDF, headers=headers)


def _on_sheet(desk: Desk, chosen: Sequence[int]) -> list[SheetPicture]:
    connection = desk.database.connection()
    held, named = marks.current(connection, chosen), labels.current(connection)
    versions = {i: frames.picture(connection, i) for i in chosen}
    found = []
    for number, (frame_id, name) in enumerate(zip(chosen, frames.names(connection, chosen), strict=True), 1):
        picture = versions[frame_id]
        path = str(desk.cache.path(Kind.PREVIEW, picture.version)) if picture else ""
        shown = _in_words(held[frame_id], named.name_of)
        found.append(SheetPicture(number, name.rpartition("/")[2], path, held[frame_id].turn, shown))
    return found


def _in_words(held: Marks, name_of: Callable[[str], str]) -> str:
    said = [in_words(Field.DECISION, held.decision.value)] if held.decision != "undecided" else []
    said += [in_words(Field.RATING, held.rating)] if held.rating else []
    said += [name_of(held.label)] if held.label else []
    return " · ".join(said)
