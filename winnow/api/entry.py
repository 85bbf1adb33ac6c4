"""Ways in: codes for other browsers, and the devices that came in by one."""

from __future__ import annotations

from fastapi import Request
from pydantic import AwareDatetime, StrictBool

from winnow.api.desk import Desk
from winnow.api.entry_codes import TYPED_VALID_S
from winnow.api.events import WITHDRAWN
from winnow.api.models.base import Id, Model, SavedName, moment, shown
from winnow.api.problems import CHANGING, Code, ProblemError, answers
from winnow.api.routes import routes
from winnow.core.marks import clean_label

router = routes("/api/entry", "entry")


class EntryCode(Model):
    """code: opens Winnow once, as `?code=` of any of its pages; empty where nobody needs one."""

    code: str


class DeviceWish(Model):
    """A device that is to be let in, as whoever uses it is called in the history. proposes: marks that are made on it
    are proposals."""

    model_config = shown({"name": "Rada's tablet"})

    name: SavedName
    proposes: StrictBool = False


class DeviceManner(Model):
    """proposes: marks that are made on the device are proposals from now on; those made before stay what they are."""

    proposes: StrictBool


class DeviceCode(Model):
    """A code to be typed on the device, at one of the addresses; it lets in once, for so long."""

    code: str
    addresses: list[str]
    valid_s: float


class DeviceView(Model):
    id: int
    name: str
    made_at: AwareDatetime
    seen_at: AwareDatetime
    proposes: bool


class DevicesView(Model):
    """addresses: where other machines reach this Winnow; none: they do not. may_change: whoever asks may let devices
    in and withdraw them, which devices may not."""

    addresses: list[str]
    devices: list[DeviceView]
    may_change: bool


@router.post("", responses=answers())
async def make_entry_code(request: Request) -> EntryCode:
    """A code for another browser of whoever asks."""
    _demand_owner(request)
    return EntryCode(code=request.app.state.codes.make() if request.app.state.is_private else "")


@router.get("/devices", responses=answers())
def list_devices(request: Request) -> DevicesView:
    """The devices that are let in."""
    state = request.app.state
    found = [
        DeviceView(
            id=one.id,
            name=one.name,
            made_at=moment(one.made_at),
            seen_at=moment(one.seen_at),
            proposes=one.proposes,
        )
        for one in state.devices.every()
    ]
    may = state.is_private and not _is_device(request)
    return DevicesView(addresses=state.addresses if state.is_private else [], devices=found, may_change=may)


@router.post("/devices", responses=answers(*CHANGING, Code.CANNOT_BE_DONE, Code.NOT_NOW))
def invite_device(request: Request, wish: DeviceWish) -> DeviceCode:
    """A code that lets a device in."""
    _demand_owner(request)
    state, name = request.app.state, clean_label(wish.name)
    if not state.is_private or not state.addresses:
        raise ProblemError(
            Code.NOT_NOW, "Other machines do not reach this Winnow: start it with --lan to let a device in."
        )
    if not name:
        raise ProblemError(Code.CANNOT_BE_DONE, "Say how the device is to be called.")
    code = state.codes.make_typed(name, proposes=wish.proposes)
    return DeviceCode(code=code, addresses=state.addresses, valid_s=TYPED_VALID_S)


@router.put("/devices/{device_id}", status_code=204, responses=answers(*CHANGING))
def set_manner(request: Request, device_id: Id, manner: DeviceManner) -> None:
    """Whether marks of a device are proposals."""
    _demand_owner(request)
    request.app.state.devices.set_proposes(device_id, manner.proposes)


@router.delete("/devices/{device_id}", status_code=204, responses=answers(*CHANGING))
def withdraw_device(request: Request, device_id: Id) -> None:
    """Withdraw a device: its next request is refused, and its event streams end at once."""
    _demand_owner(request)
    request.app.state.devices.withdraw(device_id)
    desk: Desk = request.app.state.desk
    desk.events.publish(WITHDRAWN, device_id=device_id)


def _is_device(request: Request) -> bool:
    return request.scope.get("device") is not None


def _demand_owner(request: Request) -> None:
    if _is_device(request):
        raise ProblemError(Code.REFUSED, "Devices are let in at the machine that Winnow runs on.")
