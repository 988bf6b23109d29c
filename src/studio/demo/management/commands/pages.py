"""How long the pages of the demo's player take, and how large they are; ``demo --years 5`` makes it a long log."""

from __future__ import annotations

import time
from argparse import ArgumentParser
from pathlib import Path
from typing import Any

import numpy as np
from django.conf import settings
from django.core.management.base import BaseCommand, CommandError
from django.test import Client
from django.urls import reverse

from studio.accounts.models import demo_player, local_player
from studio.ladders.models import Ladder
from studio.memory import keep_what_is_loaded
from studio.pieces.models import Piece
from studio.takes.models import Silence, Take


class Command(BaseCommand):
    """``./giusto manage pages [--times N]``."""

    help = "Print how long the main pages take: median, 95th percentile (and in medians of set-the-click), and size."

    def add_arguments(self, parser: ArgumentParser) -> None:
        """Add --times."""
        parser.add_argument("--times", type=int, default=40, help="how often each page is asked for (40)")

    def handle(self, **options: Any) -> None:
        """Ask for all pages again and again, in this process."""
        if settings.STATIC_ROOT and not (Path(settings.STATIC_ROOT) / "staticfiles.json").exists():
            raise CommandError("no styles are collected yet: ./giusto start does that, once")
        keep_what_is_loaded()  # as a web worker does
        client = Client(SERVER_NAME="127.0.0.1")
        player = demo_player()
        if player:
            client.post(reverse("accounts:demo"))
        takes = Take.objects.visible_to(player or local_player()).ended()
        pages = _pages(takes.order_by("-started_at").first())
        answers = {name: _asked(client, path) for name, path in pages.items()}  # warm
        spent: dict[str, list[float]] = {name: [] for name in pages}
        for _ in range(options["times"]):  # in turns: what else the machine does meets all of them alike
            for name, path in pages.items():
                began = time.perf_counter()
                answers[name] = _asked(client, path)
                spent[name].append(1000 * (time.perf_counter() - began))
        self.stdout.write(f"{takes.count()} takes\n{'page':24} {'median ms':>10} {'p95 ms':>8} {'KB':>6} {'times':>6}")
        bar = float(np.median(spent["set the click"]))
        for name, (status, size) in answers.items():
            median, late = np.percentile(spent[name], [50, 95])
            said = "" if status == 200 else f"  answered {status}"
            self.stdout.write(f"{name:24} {median:10.1f} {late:8.1f} {size / 1000:6.0f} {late / bar:6.2f}{said}")


def _asked(client: Client, path: str) -> tuple[int, int]:
    """Ask for a page and return its status and size, and nothing that the collector would have to look through."""
    answer = client.get(path, follow=True)
    return answer.status_code, len(answer.content)


def _pages(take: Take | None) -> dict[str, str]:
    pages = {"set the click": reverse("drills:set"), "log": reverse("log:page"), "deleted": reverse("log:deleted")}
    pages["log, an old page"] = f"{pages['log']}?page=20"
    if take:
        address = take.get_absolute_url()
        pages |= {"reading": address, "standing": f"{address}?view=standing"}
        pages["play again"] = f"{reverse('takes:play')}?again={take.pk}"
    pages |= {"work": reverse("work:page"), "reach": reverse("reach:page"), "today": reverse("plan:today")}
    pages |= {"weeks": reverse("plan:weeks"), "progress": reverse("progress:page"), "new piece": reverse("pieces:new")}
    pages |= {"month": reverse("progress:this-month"), "log, searched": f"{pages['log']}?q=marimba&tempo=60-100"}
    silence = Silence.objects.filter(take__in=Take.objects.visible_to(take.player)).last() if take else None
    if silence:
        pages["one silence"] = f"{silence.take.get_absolute_url()}silence/{silence.number}/"
    ladder = Ladder.objects.filter(player=take.player).first() if take else None
    piece = Piece.objects.filter(player=take.player).kept().first() if take else None
    some = {"a ladder": ladder, "a piece": piece}
    return pages | {name: one.get_absolute_url() for name, one in some.items() if one}
