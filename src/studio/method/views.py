"""The method page. Its text is ``docs/method.md``, so that there is one of it."""

from __future__ import annotations

import re
from functools import cache

from django.conf import settings
from django.contrib.auth.decorators import login_not_required
from django.http import HttpRequest, HttpResponse
from django.shortcuts import render
from django.utils.safestring import SafeString, mark_safe
from django.views.decorators.http import require_safe
from markdown import markdown

TEXT = "docs/method.md"
WIDE = re.compile(r"<(pre|table)>.*?</\1>", re.DOTALL)  # what a phone scrolls by itself
ELSEWHERE = re.compile(r'<a href="(?!#)[^"]*">(.*?)</a>')  # links to other files of the project's docs


@login_not_required
@require_safe
def page(request: HttpRequest) -> HttpResponse:
    """Show how each figure is made; each heading has an address of its own."""
    return render(request, "method/page.html", {"text": _text()})


@cache
def _text() -> SafeString:
    """Return the project's own text as HTML; it comes from no user."""
    text = (settings.ROOT / TEXT).read_text(encoding="utf-8")
    html = markdown(text, extensions=["tables", "toc", "sane_lists"])
    html = ELSEWHERE.sub(r"\1", html)
    return mark_safe(WIDE.sub(r'<div class="scroll" tabindex="0">\g<0></div>', html))  # noqa: S308 - our own file
