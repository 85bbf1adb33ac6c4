"""Several people in one shoot: each page says where it is, so that others can come along."""

from __future__ import annotations

from dataclasses import asdict

from winnow.api.actor import Actor, Proposes
from winnow.api.desk import SHOOT_PROBLEMS, OfShoot, OnDesk
from winnow.api.models.company import CompanionView, Company, WhereWish
from winnow.api.present import Companion
from winnow.api.problems import answers
from winnow.api.routes import routes

router = routes("/api/shoots/{shoot_id}", "company")


@router.put("/here", responses=answers(*SHOOT_PROBLEMS))
def say_where(desk: OnDesk, shoot: OfShoot, wish: WhereWish, actor: Actor, proposes: Proposes) -> Company:
    """Says where a page is in a shoot, and tells who else is there; the shoot is worked on from then on. To be said
    again at least every 50 seconds; who listens to events hears of it at once."""
    one = Companion(wish.page, actor, wish.frame_id, wish.screen)
    if wish.gone:
        desk.present.leave(shoot.id, wish.page)
        others = []
    else:
        if not desk.present.is_here(shoot.id, wish.page):
            desk.welcome(shoot.id)
        others = desk.present.say(shoot.id, one)
    desk.events.publish("company", shoot_id=shoot.id, gone=wish.gone, **asdict(one))
    return Company(others=[CompanionView.model_validate(other) for other in others], proposes=proposes)
