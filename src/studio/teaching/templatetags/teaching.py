"""Tags of what a teacher said: where it belongs, and on Today."""

from __future__ import annotations

from typing import Any

from django import template
from django.conf import settings

from studio.accounts.looking import looking
from studio.accounts.models import Player
from studio.ladders.models import Ladder
from studio.pieces.models import Piece
from studio.takes.models import Take
from studio.teaching.addresses import own, shown
from studio.teaching.models import Assignment, Remark, Shown

register = template.Library()


@register.inclusion_tag("teaching/_remarks.html", takes_context=True)
def remarks(context: dict[str, Any], thing: Take | Ladder | Piece, number: int | None = None) -> dict[str, Any]:
    """Show what was said of a take, a ladder or a piece, or of one silence; a teacher who looks can say more."""
    if not settings.MANY:
        return {}
    name = {Take: "take", Ladder: "ladder", Piece: "piece"}[type(thing)]
    part = {"take": "silence", "ladder": "rung", "piece": "bar"}[name]
    found = Remark.objects.filter(**{name: thing}).order_by("at")
    if number is not None:
        found = found.filter(**{part: number})
    look = looking()
    viewer = look.viewer if look else None
    if look and viewer is None:
        found = found.none()
    says = look is not None and viewer is not None and not look.is_of_demo
    return {
        "remarks": [(one, getattr(one, part)) for one in found],
        "part": part,
        "number": number,
        "name": name,
        "thing": thing,
        "says": says,
        "say_url": own("teaching:remark", look.player.pk) if says and look else "",
        "csrf_token": context.get("csrf_token"),
    }


@register.inclusion_tag("teaching/_today.html", takes_context=True)
def from_teachers(context: dict[str, Any], player: Player) -> dict[str, Any]:
    """Show on Today what was said and asked, and not put away or answered yet."""
    if not settings.MANY:
        return {}
    about = ("take", "take__exercise", "ladder", "piece")
    return {
        "remarks": Remark.objects.filter(player=player, put_away_at=None).select_related(*about)[:5],
        "assignments": [one for one in Assignment.objects.filter(player=player, put_away_at=None) if one.is_open][:5],
        "answers": looking() is None,
        "csrf_token": context.get("csrf_token"),
    }


@register.inclusion_tag("teaching/_show.html", takes_context=True)
def show_by_link(context: dict[str, Any], take: Take) -> dict[str, Any]:
    """Offer a link to a reading, in a studio; show the one that is there."""
    link = Shown.objects.filter(take=take).first()
    url = context["request"].build_absolute_uri(shown(link, take)) if link else ""
    return {
        "shown": link,
        "url": url,
        "take": take,
        "csrf_token": context.get("csrf_token"),
    }
