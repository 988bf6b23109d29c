"""Addresses of the player's own page."""

from django.urls import path

from studio.accounts import views

app_name = "accounts"
urlpatterns = [path("you/", views.you, name="you"), path("demo/", views.demo, name="demo")]
