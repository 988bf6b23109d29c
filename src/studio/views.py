"""The way in, and the sign of life."""

import os

from django.contrib.auth.decorators import login_not_required
from django.db import connection
from django.http import HttpRequest, HttpResponse, JsonResponse
from django.shortcuts import redirect
from django.views.decorators.csrf import ensure_csrf_cookie
from django.views.decorators.http import require_safe

from studio.limits import LIMITS


@require_safe
def home(request: HttpRequest) -> HttpResponse:
    """Lead to today, whether anything is planned for it or not."""
    return redirect("plan:today")


@login_not_required
@require_safe
@ensure_csrf_cookie
def alive(request: HttpRequest) -> HttpResponse:
    """Answer that the site and its database work, with a new cookie for a browser that lost its own."""
    with connection.cursor() as cursor:
        cursor.execute("select 1")
    return JsonResponse({"alive": True, "ended": LIMITS.ended, "of": os.environ.get("GIUSTO_START", "")})
