"""Addresses of a studio: those of one player, and the doors, rooms and lessons of many."""

from django.urls import include, path

from studio.urls import handler400, handler403, handler404, handler500, urlpatterns

__all__ = ["handler400", "handler403", "handler404", "handler500", "urlpatterns"]

urlpatterns = [
    path("account/", include("studio.joining.allauth_urls")),
    path("", include("studio.joining.urls")),
    path("", include("studio.teaching.urls")),
    path("", include("studio.installed.urls")),
    *urlpatterns,
]
