"""What a browser asks for when the site is installed on a phone: a manifest, a service worker, a page for no net."""

from __future__ import annotations

import json
from functools import cache
from hashlib import sha256
from pathlib import Path

from django.conf import settings
from django.contrib.auth.decorators import login_not_required
from django.contrib.staticfiles.storage import staticfiles_storage
from django.http import HttpRequest, HttpResponse, JsonResponse
from django.shortcuts import render
from django.urls import reverse
from django.views.decorators.http import require_safe

STATIC = Path(settings.SITE) / "static"
KEPT = ("*.css", "*.svg", "fonts/*.woff2", "js/*.js", "flac/libflac*")  # what every page needs
PAPER, INK = "#f6f1e4", "#172136"
ICONS = {"icons/192.png": "192x192", "icons/512.png": "512x512"}
SOUNDS = ["audio/*", "video/mp4", "video/webm", ".m4a", ".mp3", ".ogg", ".opus", ".wav", ".flac", ".amr", ".3gp"]


@login_not_required
@require_safe
def manifest(request: HttpRequest) -> HttpResponse:
    """Say what the site is called and looks like where it is installed, and what may be shared with it."""
    icons = [
        {"src": staticfiles_storage.url(name), "sizes": size, "type": "image/png", "purpose": purpose}
        for name, size in ICONS.items()
        for purpose in ("any", "maskable")
    ]
    content = {
        "name": "Giusto",
        "short_name": "Giusto",
        "description": "Measures what your tempo does when the click is silent",
        "id": "/",
        "start_url": reverse("plan:today"),
        "scope": "/",
        "display": "standalone",
        "background_color": PAPER,
        "theme_color": PAPER,
        "icons": icons,
        "share_target": {
            "action": f"{reverse('recordings:drop')}shared/",
            "method": "POST",
            "enctype": "multipart/form-data",
            "params": {"files": [{"name": "file", "accept": SOUNDS}]},
        },
    }
    return JsonResponse(content, content_type="application/manifest+json")


@login_not_required
@require_safe
def worker(request: HttpRequest) -> HttpResponse:
    """Give the service worker, which knows the files that every page needs by the names that they have today."""
    headers = {"Cache-Control": "no-cache"}
    return HttpResponse(_worker(), content_type="text/javascript; charset=utf-8", headers=headers)


@login_not_required
@require_safe
def off_the_net(request: HttpRequest) -> HttpResponse:
    """Show what is here without a net; the page is kept beforehand, and is nobody's."""
    return render(request, "installed/off_the_net.html")


@cache
def _worker() -> str:
    script = (STATIC / "js/worker.js").read_text(encoding="utf-8")
    names = sorted({path.relative_to(STATIC).as_posix() for pattern in KEPT for path in STATIC.glob(pattern)})
    files = [staticfiles_storage.url(name) for name in names]
    plan = {
        "files": [*files, reverse("installed:off-the-net")],
        "offline": reverse("installed:off-the-net"),
        "today": reverse("plan:today"),
        "sounds": reverse("drills:sound", args=["VOICE", "KIND", 1]).partition("VOICE")[0],
        "shared": f"{reverse('recordings:drop')}shared/",
        "recording": reverse("recordings:drop"),
        "door": [reverse("account_login"), reverse("account_logout")],
        "static": settings.STATIC_URL,
    }
    version = sha256(f"{script}{plan}".encode()).hexdigest()[:16]
    return f"self.PLAN = {json.dumps({**plan, 'version': version})};\n{script}"
