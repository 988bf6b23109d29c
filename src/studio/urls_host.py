"""Addresses of a host: those of a studio, and the figures for whoever watches."""

from django.urls import path

from studio.urls_many import handler400, handler403, handler404, handler500, urlpatterns
from studio.watched import views

__all__ = ["handler400", "handler403", "handler404", "handler500", "urlpatterns"]

urlpatterns = [path("metrics/", views.metrics, name="metrics"), *urlpatterns]
