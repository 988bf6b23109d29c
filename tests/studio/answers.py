"""One question, all pages: what each of them answers, for tests that they agree."""

from __future__ import annotations

import re
from collections import defaultdict
from html import unescape
from typing import Any

from django.test import Client
from django.utils import timezone

from studio.ladders.models import Ladder
from studio.takes.models import Take

# ``8 beats alone, 5.0 s``, ``8 beats alone near 96. That is 5.0 s``, ``8 beats alone near 96 5.0 s``: length, seconds.
HELD = re.compile(r"(?:([Aa]t least|[Aa]t most) )?([\d.]+) beats? alone(?:,| near \d+\.? (?:That is )?) ?([\d.]+)\xa0s")
RANGE = re.compile(r"([\d.]+) to ([\d.]+) beats?, by (\d+) silences? of (\d+) takes?")
Answers = dict[str, dict[str, Any]]


def answers(client: Client) -> Answers:
    """Return every answer that the pages give to some questions: by question and page.

    The questions: how long a silence is held (length and range), what to try next, minutes and takes of a day and of
    a month, what each ladder asks and what of it is secure.
    """
    found: Answers = defaultdict(dict)
    month = timezone.localdate().strftime("/progress/month/%Y/%m/")
    pages = {path: client.get(path) for path in ("/today/", "/reach/", "/progress/", month, "/work/", "/weeks/")}
    for path, page in pages.items():
        if page.status_code != 200:
            continue
        text = unescape(re.sub(r"<[^>]+>|\s+(?=\s)", " ", page.content.decode()))
        text = re.sub(r"[ \n]+", " ", text)
        if told := HELD.search(text):
            found["how long"][path] = ((told[1] or "").lower(), *told.groups()[1:])
        if told := RANGE.search(text):
            found["by what"][path] = told.groups()
    _to_try(found, pages)
    _played(found, pages, month, client)
    _ladders(found, pages, client)
    return found


def disagreements(found: Answers) -> list[str]:
    """Return the questions to which two pages answer otherwise, with their answers."""
    return [f"{question}: {told}" for question, told in found.items() if len({repr(one) for one in told.values()}) > 1]


def _to_try(found: Answers, pages: dict[str, Any]) -> None:
    reach = pages["/reach/"]
    found["to try"]["/reach/"] = reach.context["try_beats"] - 1  # click to click: one more than are alone
    if page := re.search(r"([\d.]+) beats? would tell most", reach.content.decode()):
        found["to try"]["/reach/, its sentence"] = int(float(page[1]))
    today = pages["/today/"].context.get("today") if pages["/today/"].context else None
    for line in today.lines if today else ():
        if line.item.name == "Reach" and (told := re.search(r"try (\d+) beats", line.item.why)):
            found["to try"]["/today/"] = int(told[1])


def _played(found: Answers, pages: dict[str, Any], month: str, client: Client) -> None:
    today = timezone.localdate()
    told = pages[month].context["month"]
    found["minutes today"][month] = dict(told.days)[today]
    if closing := pages["/today/"].context.get("closing"):
        found["minutes today"]["/today/"] = closing.minutes
    if pages["/weeks/"].status_code == 200:
        days = [day for week in pages["/weeks/"].context["weeks"] for day in week.days]
        found["minutes today"]["/weeks/"] = next(day.played for day in days if day.date == today)
    first = f"{told.first:%Y-%m-%d}"
    of_month = client.get("/log/", {"since": first, "until": f"{today:%Y-%m-%d}"}).context["page"].paginator.count
    own = Take.objects.ended().filter(player=told.player, deleted_at=None, session__day__gte=told.first)
    simulated = 0 if told.player.is_demo else own.filter(input="simulated").count()
    found["takes of the month"] = {month: told.takes, "/log/": of_month - simulated}


def _ladders(found: Answers, pages: dict[str, Any], client: Client) -> None:
    today = pages["/today/"].context.get("today") if pages["/today/"].context else None
    at_today = {line.item.page: line.item.what for line in today.lines} if today else {}
    lines = [line for group in pages["/work/"].context["work"].groups for line in group.lines]
    for ladder in Ladder.objects.visible_to(pages["/work/"].context["request"].user).filter(exercise__whole=None):
        page = client.get(ladder.get_absolute_url())
        shown = page.context["shown"].ladder
        asked, part = page.context["asked"], shown.exercise.part_name
        found[f"asked by {ladder.name}"][ladder.get_absolute_url()] = asked
        for line in lines:
            if line.page == ladder.get_absolute_url():
                found[f"asked by {ladder.name}"]["/work/"] = line.stands.split(f", {part}" if part else ", goal")[0]
        if (own := shown.get_absolute_url()) in at_today:
            found[f"asked by {ladder.name}"]["/today/"] = at_today[own].split(".")[0].split(", then ")[0]
        if not page.context["record"]:
            found[f"secure of {ladder.name}"][own] = page.context["standing"].step.secure
            core = ladder.core
            hung = next((line.hung for line in lines if line.page == own), None)
            if hung is not None:
                found[f"secure of {ladder.name}"]["/work/"] = round(hung * len(core.values))
