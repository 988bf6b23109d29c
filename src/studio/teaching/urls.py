"""Addresses of teachers and pupils."""

from django.urls import path

from studio.teaching import pupil_views, views

app_name = "teaching"
urlpatterns = [
    path("pupils/", views.pupils, name="pupils"),
    path("pupils/code/", views.code, name="code"),
    path("pupils/months/<int:year>/<int:number>/", views.months, name="months"),
    path("pupils/<int:player_id>/", views.pupil, name="pupil"),
    path("pupils/<int:player_id>/code/", views.let_in, name="let-in"),
    path("pupils/<int:player_id>/remark/", views.remark, name="remark"),
    path("pupils/<int:player_id>/assign/", views.assign, name="assign"),
    path("remarks/<int:remark_id>/", views.change_remark, name="change-remark"),
    path("remarks/<int:remark_id>/away/", pupil_views.remark_away, name="remark-away"),
    path("assignments/<int:assignment_id>/accept/", pupil_views.accept, name="accept"),
    path("assignments/<int:assignment_id>/away/", pupil_views.assignment_away, name="assignment-away"),
    path("assignments/<int:assignment_id>/back/", views.take_back, name="take-back"),
    path("teacher/", pupil_views.teachers, name="teachers"),
    path("teacher/consent/", pupil_views.consent, name="consent"),
    path("teacher/<int:consent_id>/end/", pupil_views.withdraw, name="withdraw"),
    path("takes/<uuid:take_id>/show/", pupil_views.show, name="show"),
]
