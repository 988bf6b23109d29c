"""Who plays: the player's own page, and the way into the demo and out of it."""

from __future__ import annotations

from django.conf import settings
from django.contrib import messages
from django.http import HttpResponse
from django.shortcuts import redirect, render
from django.urls import reverse
from django.views.decorators.http import require_http_methods, require_POST

from studio.accounts.forms import PlayerForm
from studio.accounts.middleware import AS_DEMO
from studio.accounts.models import demo_player
from studio.accounts.policies import may_describe, require
from studio.accounts.requests import PlayerRequest


@require_http_methods(["GET", "HEAD", "POST"])
def you(request: PlayerRequest) -> HttpResponse:
    """Show and change what a player says of themselves."""
    form = PlayerForm(request.POST or None, instance=request.user)
    if request.method == "POST":
        require(may_describe(request.user))
        if form.is_valid():
            form.save()
            messages.success(request, "Kept.")
            return redirect("accounts:you")
    context = {"form": form, "may_change": may_describe(request.user)}
    return render(request, "accounts/you.html", context, status=422 if form.errors else 200)


@require_POST
def demo(request: PlayerRequest) -> HttpResponse:
    """Look at the demo as the one who played it, or go back to one's own."""
    if request.session.pop(AS_DEMO, None):
        return redirect("drills:set")
    player = demo_player()
    if player is None:
        messages.error(request, "There is no demo here: ./giusto manage demo makes it.")
        return redirect("accounts:you")
    if settings.MANY:  # whoever has an account is nobody else: the demo is looked at
        return redirect(f"/pupils/{player.pk}/see{reverse('log:page')}")
    request.session[AS_DEMO] = True
    return redirect("log:page")
