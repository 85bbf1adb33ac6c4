"""What another program says to a running Winnow, in Python: the same requests as the interface sends, and no others.

    from winnow.client import Winnow

    with Winnow.running() as winnow:
        shoot = winnow.prepared(winnow.open("/pictures/kiln").id)
        sharp = winnow.frames(shoot.id, "sharp, eyes open")
        winnow.mark(shoot.id, [frame.id for frame in sharp], rating=3)
        print(winnow.undo(shoot.id).title)

`docs/api.md` says what each request means; the models are those of the server.
"""

from __future__ import annotations

import time
from collections.abc import Sequence
from pathlib import Path
from secrets import token_hex
from types import TracebackType
from typing import Any, Literal, Self, TypeVar
from urllib.parse import quote

import httpx
from pydantic import BaseModel

from winnow.api.entry import EntryCode
from winnow.api.models.frames import FrameDetails, Frames, FrameSummary
from winnow.api.models.marks import LastActions, Marked
from winnow.api.models.plans import PlanView, PlanWish
from winnow.api.models.shoots import ShootCard, Shoots
from winnow.api.models.viewing import View
from winnow.core.marks import Decision
from winnow.pipeline.progress import ProgressState
from winnow.store import data_folder

PATIENCE_S = 60.0
TRIES = 3
ASK_EVERY_S = 0.2

M = TypeVar("M", bound=BaseModel)
Picture = Literal["thumb", "medium", "preview", "full"]


class WinnowError(RuntimeError):
    """The server refused; the message says what to do. code: the stable name of the problem, as docs/api.md lists
    them; status: of HTTP."""

    def __init__(self, code: str, detail: str, status: int) -> None:
        super().__init__(detail)
        self.code = code
        self.status = status


class NotReachedError(RuntimeError):
    """Nobody answers at the address, or none is known."""


class Winnow:
    """A running server. To be closed, or used in a `with` statement.

    address: as the server printed it, without the secret; token: the secret, where it has one; name: of whoever acts,
    for the history.
    """

    def __init__(self, address: str, token: str | None = None, name: str | None = None) -> None:
        headers = {"Authorization": f"Bearer {token}"} if token else {}
        if name:
            headers["Winnow-Actor"] = quote(name)
        self.address = address.rstrip("/")
        self._http = httpx.Client(base_url=self.address, headers=headers, timeout=PATIENCE_S, trust_env=False)

    @classmethod
    def running(cls, data: Path | None = None, name: str | None = None) -> Self:
        """The server that runs on a data folder of this machine, the usual one unless another is said. Raises
        NotReachedError, also where its token is only known to whoever started it."""
        folder = data or data_folder.default_folder()
        found = data_folder.running(folder)
        if found is None:
            raise NotReachedError(f"No Winnow runs on {folder}: start it with winnow serve.")
        try:
            token = data_folder.secret_of(folder) if found.secret else None
        except OSError as error:
            raise NotReachedError(f"The secret in {folder} cannot be read ({error.strerror}).") from error
        return cls(found.address, token, name)

    def shoots(self) -> list[ShootCard]:
        """The shoots on the list, the one opened last first."""
        found: list[ShootCard] = []
        more = True
        while more:
            page = self._model(Shoots, "GET", "/api/shoots", params={"after": found[-1].id if found else 0})
            found += page.shoots
            more = page.more
        return found

    def shoot(self, shoot_id: int) -> ShootCard:
        return self._model(ShootCard, "GET", f"/api/shoots/{shoot_id}")

    def open(self, folder: str | Path, *, as_new: bool = False) -> ShootCard:
        """Opens a folder as a shoot. as_new: also where it looks like a known shoot that has moved."""
        body = {"path": str(Path(folder).absolute()), "as_new": as_new}
        return self._model(ShootCard, "POST", "/api/shoots", body)

    def prepared(self, shoot_id: int, patience_s: float = 3600) -> ShootCard:
        """Waits until all of a shoot is read and measured. Raises TimeoutError."""
        end = time.monotonic() + patience_s
        while (card := self.shoot(shoot_id)).progress.state not in (
            ProgressState.DONE,
            ProgressState.UNREADABLE,
        ):
            if time.monotonic() > end:
                raise TimeoutError(f"'{card.title}' is not prepared yet: {card.progress.measured} measured.")
            time.sleep(ASK_EVERY_S)
        return card

    def frames(self, shoot_id: int, show: str = "") -> list[FrameSummary]:
        """The frames of a shoot that pass a filter (docs/filters.md), in capture order; without one, all that are in
        it."""
        view = self._model(View, "GET", f"/api/shoots/{shoot_id}/view", params={"show": show})
        found: dict[int, FrameSummary] = {}
        more, after = True, 0
        while more:
            page = self._model(Frames, "GET", f"/api/shoots/{shoot_id}/frames", params={"after": after})
            found |= {frame.id: frame for frame in page.frames}
            more, after = page.more, page.frames[-1].id if page.frames else after
        return [found[frame_id] for frame_id in view.ids if frame_id in found]

    def details(self, frame_id: int) -> FrameDetails:
        """Everything known of one frame."""
        return self._model(FrameDetails, "GET", f"/api/frames/{frame_id}")

    def picture(self, frame: FrameSummary, kind: Picture = "preview") -> bytes:
        """A JPEG of a frame: 512, 1280 or 2560 px, or all pixels."""
        return self._send("GET", f"/api/pictures/{frame.id}/{frame.version}/{kind}").content

    def mark(
        self,
        shoot_id: int,
        frames: Sequence[int],
        *,
        decision: Decision | Literal["keep", "undecided", "reject"] | None = None,
        rating: int | None = None,
        label: str | None = None,
    ) -> Marked:
        """Sets marks on frames, by their ids, as one action; what is not said stays. label: an empty text takes it
        off."""
        body: dict[str, Any] = {"frame_ids": list(frames)}
        if decision is not None:
            body["decision"] = decision
        if rating is not None:
            body["rating"] = rating
        if label is not None:
            body["label"] = label or None
        return self._model(Marked, "POST", f"/api/shoots/{shoot_id}/marks", body)

    def undo(self, shoot_id: int) -> Marked:
        """Takes the last action back. Raises WinnowError `overtaken` where there is none."""
        return self._step(shoot_id, "undo")

    def redo(self, shoot_id: int) -> Marked:
        """Brings back what was undone last."""
        return self._step(shoot_id, "redo")

    def plan(self, shoot_id: int, wish: PlanWish) -> PlanView:
        """Works out what would be done with files. Nothing is touched until it is applied."""
        return self._model(
            PlanView,
            "POST",
            f"/api/shoots/{shoot_id}/plans",
            wish.model_dump(mode="json", exclude_unset=True),
        )

    def apply(self, plan_id: int, patience_s: float = 24 * 3600) -> PlanView:
        """Applies a plan and waits for its end: see its `state`, and what it `left`. Raises TimeoutError."""
        plan = self._model(PlanView, "POST", f"/api/plans/{plan_id}/apply")
        end = time.monotonic() + patience_s
        while plan.running:
            if time.monotonic() > end:
                raise TimeoutError(f"Plan {plan_id} still runs: {plan.done} of {plan.files} files.")
            time.sleep(ASK_EVERY_S)
            plan = self._model(PlanView, "GET", f"/api/plans/{plan_id}")
        return plan

    def entry_code(self) -> str:
        """A code that lets a browser in once, as `?code=` of any page; empty where none is needed."""
        return self._model(EntryCode, "POST", "/api/entry").code

    def close(self) -> None:
        self._http.close()

    def __enter__(self) -> Self:
        return self

    def __exit__(
        self, kind: type[BaseException] | None, error: BaseException | None, trace: TracebackType | None
    ) -> None:
        self.close()

    def _step(self, shoot_id: int, way: Literal["undo", "redo"]) -> Marked:
        actions = self._model(LastActions, "GET", f"/api/shoots/{shoot_id}/actions")
        action = actions.undo if way == "undo" else actions.redo
        if action is None:
            raise WinnowError("overtaken", f"There is nothing to {way}.", 409)
        return self._model(Marked, "POST", f"/api/shoots/{shoot_id}/{way}", {"batch": action.batch})

    def _model(
        self,
        model: type[M],
        method: str,
        path: str,
        body: object = None,
        params: dict[str, Any] | None = None,
    ) -> M:
        return model.model_validate(self._ask(method, path, body, params))

    def _ask(self, method: str, path: str, body: object = None, params: dict[str, Any] | None = None) -> Any:
        return self._send(method, path, body, params).json()

    def _send(
        self, method: str, path: str, body: object = None, params: dict[str, Any] | None = None
    ) -> httpx.Response:
        """A change carries a key, so that sending it again after a lost answer does it once."""
        headers = {} if method == "GET" else {"Idempotency-Key": token_hex(16)}
        for attempt in range(TRIES):
            try:
                answer = self._http.request(method, path, json=body, params=params, headers=headers)
                break
            except httpx.TransportError as error:
                if attempt == TRIES - 1:
                    raise NotReachedError(f"Nobody answers at {self.address} ({error}).") from error
                time.sleep(ASK_EVERY_S * 2**attempt)
        if answer.is_error:
            raise _error(answer)
        return answer


def _error(answer: httpx.Response) -> WinnowError:
    try:
        problem = answer.json()
        return WinnowError(problem["code"], problem["detail"], answer.status_code)
    except (ValueError, KeyError, TypeError):
        return WinnowError("failed", answer.text or answer.reason_phrase, answer.status_code)
