"""Addresses of the work."""

from django.urls import path

from studio.work import views

app_name = "work"
urlpatterns = [path("", views.page, name="page")]
