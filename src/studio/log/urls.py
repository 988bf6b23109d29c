"""Addresses of the log."""

from django.urls import path

from studio.log import views

app_name = "log"

urlpatterns = [
    path("", views.page, name="page"),
    path("left/", views.end_left, name="left"),
    path("deleted/", views.deleted, name="deleted"),
]
