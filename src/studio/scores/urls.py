"""Addresses of scores that are being read."""

from django.urls import path

from studio.scores import views

app_name = "scores"

urlpatterns = [path("<uuid:score_id>/", views.score, name="score")]
