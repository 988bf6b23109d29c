"""Addresses of pieces."""

from django.urls import path
from django.views.generic import RedirectView

from studio.pieces import views

app_name = "pieces"

urlpatterns = [
    path("", RedirectView.as_view(pattern_name="work:page", query_string=True), name="all"),
    path("new/", views.new, name="new"),
    path("<uuid:piece_id>/", views.piece, name="piece"),
    path("<uuid:piece_id>/score/", views.score, name="score"),
    path("<uuid:piece_id>/found/", views.found, name="found"),
    path("<uuid:piece_id>/known/", views.known, name="known"),
    path("<uuid:piece_id>/spot/", views.spot, name="spot"),
    path("<uuid:piece_id>/mark/", views.mark, name="mark"),
    path("<uuid:piece_id>/mark/<int:mark_id>/rub-out/", views.rub_out, name="rub-out"),
    path("<uuid:piece_id>/put-away/", views.put_away, name="put-away"),
    path("<uuid:piece_id>/bring-back/", views.bring_back, name="bring-back"),
    path("<uuid:piece_id>/<int:stretch_id>/", views.stretch, name="stretch"),
    path("<uuid:piece_id>/<int:stretch_id>/climb/", views.climb, name="climb"),
    path("<uuid:piece_id>/<int:stretch_id>/learned/", views.learned, name="learned"),
]
