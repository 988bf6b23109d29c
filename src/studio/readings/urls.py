"""Addresses of readings."""

from django.urls import path

from studio.readings import views

app_name = "readings"

urlpatterns = [
    path("takes/<uuid:take_id>/sections/", views.sections, name="sections"),
    path("reading/", views.latest, name="latest"),
    path("takes/<uuid:take_id>/", views.reading, name="reading"),
    path("takes/<uuid:take_id>/silence/<int:number>/", views.silence, name="silence"),
    path("takes/<uuid:take_id>/read/", views.read, name="read"),
    path("takes/<uuid:take_id>/pin/", views.pin, name="pin"),
]
