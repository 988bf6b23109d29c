"""Addresses of the archive."""

from django.urls import path

from studio.archive import views

app_name = "archive"

urlpatterns = [path("giusto.zip", views.take_out, name="take-out")]
