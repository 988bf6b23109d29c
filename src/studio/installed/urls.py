"""Addresses that a browser asks for when the site is installed."""

from django.urls import path

from studio.installed import views

app_name = "installed"
urlpatterns = [
    path("giusto.webmanifest", views.manifest, name="manifest"),
    path("worker.js", views.worker, name="worker"),
    path("off-the-net/", views.off_the_net, name="off-the-net"),
]
