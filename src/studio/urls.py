"""Addresses: one file a room, this one joins them."""

from django.urls import include, path

from studio import views

urlpatterns = [
    path("", views.home, name="home"),
    path("alive/", views.alive, name="alive"),
    path("ready/", views.ready, name="ready"),
    path("method/", include("studio.method.urls")),
    path("", include("studio.accounts.urls")),
    path("set/", include("studio.drills.urls")),
    path("work/", include("studio.work.urls")),
    path("climb/", include("studio.ladders.urls")),
    path("", include("studio.plans.urls")),
    path("archive/", include("studio.archive.urls")),
    path("progress/", include("studio.progress.urls")),
    path("scores/", include("studio.scores.urls")),
    path("pieces/", include("studio.pieces.urls")),
    path("reach/", include("studio.reach.urls")),
    path("heard/", include("studio.hearing.urls")),
    path("recording/", include("studio.recordings.urls")),
    path("log/", include("studio.log.urls")),
    path("", include("studio.takes.urls")),
    path("", include("studio.readings.urls")),
]

handler400 = "studio.refusals.bad_request"
handler403 = "studio.refusals.permission_denied"
handler404 = "studio.refusals.not_found"
handler500 = "studio.refusals.server_error"
