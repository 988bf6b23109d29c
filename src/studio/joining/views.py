"""Pages at the door and behind it: a code, a new password, who is in the studio, leaving."""

from __future__ import annotations

import json
from datetime import datetime, timedelta
from typing import Any

from allauth.mfa.models import Authenticator
from allauth.usersessions.models import UserSession
from django.conf import settings
from django.contrib import messages
from django.contrib.auth import logout
from django.contrib.auth.decorators import login_not_required
from django.db.models import QuerySet
from django.http import Http404, HttpRequest, HttpResponse
from django.shortcuts import get_object_or_404, redirect, render
from django.utils import timezone
from django.views.decorators.http import require_http_methods, require_POST, require_safe

from studio.accounts.models import DEMO, Player
from studio.accounts.policies import require
from studio.accounts.requests import PlayerRequest
from studio.joining.forms import CodeForm, NewPasswordForm
from studio.joining.limits import may_try
from studio.joining.models import INVITED, LESSON, LET_IN, AuditLine, Code, make_code, note
from studio.joining.pictures import code_picture
from studio.joining.policies import may_invite, may_look_after

NO_CODE = "That is no code that can be used: codes live for half an hour and are used once."
TOO_MANY = "Too many tries from this address. Wait five minutes."
STAYS = timedelta(days=14)


@login_not_required
@require_http_methods(["GET", "HEAD", "POST"])
def join(request: HttpRequest) -> HttpResponse:
    """Take a code, and lead to what it is for."""
    form = CodeForm(request.POST or None)
    if request.method != "POST" or not form.is_valid():
        return render(request, "joining/join.html", {"form": form})
    if not may_try(request, "join"):
        return render(request, "joining/join.html", {"form": form, "problem": TOO_MANY}, status=429)
    text = form.cleaned_data["code"]
    if not request.user.is_authenticated:
        if code := Code.objects.use(text, Code.Kind.ACCOUNT):
            request.session[INVITED] = code.pk
            return redirect("account_signup")
        if code := Code.objects.use(text, Code.Kind.BACK):
            request.session[LET_IN] = code.pk
            return redirect("joining:back")
    elif code := Code.objects.use(text, Code.Kind.LESSON):
        request.session[LESSON] = code.pk
        return redirect("teaching:consent")
    return render(request, "joining/join.html", {"form": form, "problem": NO_CODE}, status=422)


@login_not_required
@require_http_methods(["GET", "HEAD", "POST"])
def back(request: HttpRequest) -> HttpResponse:
    """Take a new password of somebody whom a code has let in again."""
    number = request.session.get(LET_IN) or 0
    code = Code.objects.filter(pk=number, kind=Code.Kind.BACK).select_related("whose").first()
    player = code.whose if code else None
    if code is None or player is None or code.ends_at < timezone.now():
        return redirect("joining:join")
    form = NewPasswordForm(player, request.POST or None)
    if request.method == "POST" and form.is_valid():
        form.save()
        del request.session[LET_IN]
        note(player, code.player, "made a code by which a new password was set")
        if code.player.is_owner:
            _drop_second_steps(player)
        messages.success(request, "The new password holds. Sign in with it.")
        return redirect("account_login")
    status = 422 if form.errors else 200
    return render(request, "joining/back.html", {"form": form, "player": player}, status=status)


@require_safe
def studio(request: PlayerRequest) -> HttpResponse:
    """Show who is in the studio, and how others come in; for the owner also what each may."""
    require(may_invite(request.user))
    return _studio(request)


@require_POST
def invite(request: PlayerRequest) -> HttpResponse:
    """Make a code for a new account, and show it this once."""
    require(may_invite(request.user))
    return _studio(request, code=make_code(request.user, Code.Kind.ACCOUNT))


@require_POST
def let_in(request: PlayerRequest, player_id: int) -> HttpResponse:
    """Make a code for a new password of somebody, and show it this once."""
    require(may_look_after(request.user))
    player = _member(player_id)
    return _studio(request, code=make_code(request.user, Code.Kind.BACK, whose=player), whose=player)


@require_POST
def change(request: PlayerRequest, player_id: int) -> HttpResponse:
    """Say what somebody may, or lock an account and open it again; never one's own."""
    require(may_look_after(request.user))
    player = _member(player_id)
    if player == request.user:
        messages.error(request, "Another owner changes what you may: nobody locks themselves out.")
        return redirect("joining:studio")
    role, locks = request.POST.get("role"), request.POST.get("locked")
    if role in Player.Role.values:
        player.role = Player.Role(role)
        note(player, request.user, f"said what the account may: {player.get_role_display()}")
    if locks in ("yes", "no"):
        player.is_active = locks == "no"
        player.leaves_at = None if player.is_active else player.leaves_at
        note(player, request.user, "opened the account again" if player.is_active else "locked the account")
    player.save(update_fields=["role", "is_active", "leaves_at"])
    return redirect("joining:studio")


@require_POST
def end_session(request: PlayerRequest, session_id: int) -> HttpResponse:
    """Sign the player out in one other place."""
    get_object_or_404(UserSession, pk=session_id, user=request.user).end()
    return redirect("usersessions_list")


@require_http_methods(["GET", "HEAD", "POST"])
def leave(request: PlayerRequest) -> HttpResponse:
    """Lock one's own account now, and have all of it deleted in fourteen days."""
    player, problem = request.user, ""
    is_last = player.is_owner and not _owners().exclude(pk=player.pk).exists()
    if is_last:
        problem = "You are the only owner: make somebody else one first, under Studio."
    elif request.method == "POST" and not may_try(request, "leave"):
        problem = TOO_MANY
    elif request.method == "POST":
        if player.check_password(request.POST.get("password", "")):
            player.is_active, player.leaves_at = False, timezone.now() + STAYS
            player.save(update_fields=["is_active", "leaves_at"])
            logout(request)
            return render(request, "joining/left.html", {"on": player.leaves_at})
        problem = "That is not your password."
    context = {"problem": problem, "is_last": is_last, "on": timezone.now() + STAYS}
    return render(request, "joining/leave.html", context, status=422 if problem and request.method == "POST" else 200)


@require_safe
def lines(request: PlayerRequest) -> HttpResponse:
    """Show what others did with one's account and looked at."""
    found = AuditLine.objects.filter(player=request.user)[:500]
    return render(request, "joining/lines.html", {"lines": found})


def _studio(request: PlayerRequest, *, code: str = "", whose: Player | None = None) -> HttpResponse:
    members = Player.objects.exclude(username=DEMO).exclude(password="").order_by("date_joined")
    address = settings.STUDIO_ADDRESS or request.build_absolute_uri("/")
    context: dict[str, Any] = {
        "members": members,
        "roles": Player.Role.choices,
        "code": code,
        "whose": whose,
        "address": address,
        "copies": _copies(),
        "has_second_step": Authenticator.objects.filter(user=request.user).exists(),
    }
    context |= {"picture": code_picture(address), "may_change": may_look_after(request.user)}
    return render(request, "joining/studio.html", context)


def _copies() -> dict[str, Any] | None:
    """Return what was said of copies last (``launch/rotation.py``); None where nobody makes any by itself."""
    try:
        found = json.loads((settings.RUN / "copies.json").read_text(encoding="ascii")) if settings.RUN else {}
        return {**found, **{name: datetime.fromisoformat(found[name]) for name in ("made", "tried") if found.get(name)}}
    except (OSError, ValueError):
        return None


def _member(player_id: int) -> Player:
    player = get_object_or_404(Player, pk=player_id)
    if player.is_demo:
        raise Http404
    return player


def _owners() -> QuerySet[Player]:
    return Player.objects.filter(role=Player.Role.OWNER, is_active=True)


def _drop_second_steps(player: Player) -> None:
    """Take away second steps: whoever lost the phone has lost both."""
    Authenticator.objects.filter(user=player).delete()
