"""Plans that lay out a proof set: pictures in two sizes and one page, in a folder of its own."""

from __future__ import annotations

import json
import os
from collections.abc import Sequence
from dataclasses import asdict
from sqlite3 import Connection

from winnow.core.answer import Item
from winnow.core.pairing import Role
from winnow.core.proof import Shown, file_of
from winnow.formats.proof_page import LARGE, SMALL, page
from winnow.formats.sized import Metadata, Sized
from winnow.handoff.draft import BYTES_A_SQUARE_PIXEL, Draft, PlanError
from winnow.handoff.standing import inside
from winnow.store import frames
from winnow.store.database import display
from winnow.store.plans import Action, Step

PAGE = "index.html"


def lay_out(draft: Draft) -> None:
    """The steps that lay a set out, in the order of the frames."""
    wish = draft.wish
    if not wish.target or wish.proof is None:
        raise PlanError("Choose the folder that the proof set goes to, and give it a title.")
    draft.target = os.path.abspath(wish.target)
    if any(inside(draft.target, root) for root in draft.roots):
        raise PlanError(f"{display(draft.target)} lies inside the shoot: choose a folder outside.")
    if os.path.isdir(draft.target) and os.listdir(draft.target):
        raise PlanError(f"{display(draft.target)} is not empty: a proof set gets a folder of its own.")
    pictures, left_out = shown(draft.connection, draft.chosen)
    draft.warnings += [f"{name} cannot be shown and is left out." for name in left_out]
    if not pictures:
        raise PlanError("None of the frames can be shown: choose others.")
    sizes = {LARGE: wish.proof.long_edge, SMALL: wish.proof.small_edge}
    files = dict(draft.files_of([one.frame_id for one in pictures]))
    for one in pictures:
        if one.frame_id not in files:
            continue
        held = files[one.frame_id]
        source = next((file for file in held if file.role == Role.PICTURE), held[0])
        for folder, edge in sizes.items():
            wanted = Sized(
                edge,
                wish.proof.quality,
                True,
                Metadata.CONTACT,
                wish.proof.watermark if folder == LARGE else "",
            )
            step = Step(
                one.frame_id,
                Action.RENDER,
                source.path,
                os.path.join(draft.target, folder, file_of(one.number)),
                int(edge**2 * BYTES_A_SQUARE_PIXEL),
                content=json.dumps(asdict(wanted)).encode(),
                mtime_ns=source.mtime_ns,
            )
            draft.steps.append(step)
        draft.frames += 1
    content = page(wish.proof, [one for one in pictures if one.frame_id in files])
    target = os.path.join(draft.target, PAGE)
    draft.steps.append(Step(None, Action.WRITE, None, target, len(content), content=content))


def shown(connection: Connection, chosen: Sequence[int]) -> tuple[list[Shown], list[str]]:
    """The pictures of a set, numbered from 1; and the names of what cannot be shown."""
    found: list[Shown] = []
    left_out = []
    for row in frames.summaries_of(connection, chosen):
        if row["problem"]:
            left_out.append(row["name"])
            continue
        found.append(Shown(len(found) + 1, row["id"], row["name"], row["width"] or 0, row["height"] or 0))
    return found, left_out


def items(connection: Connection, chosen: Sequence[int]) -> list[Item]:
    """The pictures of a set as an answer names them."""
    return [Item(one.number, one.name, one.frame_id) for one in shown(connection, chosen)[0]]
