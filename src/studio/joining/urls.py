"""Addresses at the door of a studio, and of who is in it."""

from django.urls import path

from studio.joining import views

app_name = "joining"
urlpatterns = [
    path("join/", views.join, name="join"),
    path("join/back/", views.back, name="back"),
    path("studio/", views.studio, name="studio"),
    path("studio/invite/", views.invite, name="invite"),
    path("studio/<int:player_id>/", views.change, name="change"),
    path("studio/<int:player_id>/code/", views.let_in, name="let-in"),
    path("account/sessions/<int:session_id>/end/", views.end_session, name="end-session"),
    path("you/leave/", views.leave, name="leave"),
    path("you/lines/", views.lines, name="lines"),
]
