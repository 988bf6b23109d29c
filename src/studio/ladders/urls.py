"""Addresses of ladders."""

from django.urls import path
from django.views.generic import RedirectView

from studio.ladders import exercise_views, views

app_name = "ladders"

urlpatterns = [
    path("", RedirectView.as_view(pattern_name="work:page", query_string=True), name="all"),
    path("new/", views.new, name="new"),
    path("start/", views.start, name="start"),
    path("of/", views.climb_drill, name="of"),
    path("import/", views.bring_in, name="import"),
    path("off-day/", views.off_day, name="off"),
    path("exercise/<int:exercise_id>/", views.of_exercise, name="exercise"),
    path("takes/<uuid:take_id>/word/", views.word, name="word"),
    path("<uuid:ladder_id>/", views.climb, name="climb"),
    path("<uuid:ladder_id>/file/", views.take_out, name="file"),
    path("<uuid:ladder_id>/places/", exercise_views.places, name="places"),
    path("<uuid:ladder_id>/split/", exercise_views.split, name="split"),
    path("<uuid:ladder_id>/words/", exercise_views.describe, name="words"),
    path("<uuid:ladder_id>/attempts.csv", exercise_views.attempts_out, name="attempts"),
    path("<uuid:ladder_id>/attempts/", exercise_views.attempts_in, name="attempts-in"),
    path("<uuid:ladder_id>/attempts/forget/", exercise_views.attempts_forgotten, name="attempts-forget"),
    path("<uuid:ladder_id>/copy/", views.copy, name="copy"),
    path("<uuid:ladder_id>/delete/", views.delete, name="delete"),
    path("<uuid:ladder_id>/restore/", views.restore, name="restore"),
]
