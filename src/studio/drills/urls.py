"""Addresses of the place where the click is set."""

from django.urls import path

from studio.drills import own, views

app_name = "drills"

urlpatterns = [
    path("", views.set_the_click, name="set"),
    path("taps/", views.taps, name="taps"),
    path("click.<str:form>", views.download, name="download"),
    path("sounds/<slug:voice>/<slug:kind>/<int:rate_hz>/", views.sound, name="sound"),
    path("reach/", own.set_reach, name="reach"),
    path("care/", own.care, name="care"),
    path("own/keep/", own.keep, name="keep"),
    path("own/import/", own.bring_in, name="import"),
    path("own/drills.zip", own.take_out, name="export"),
    path("own/<uuid:own_id>/copy/", own.copy, name="copy"),
    path("own/<uuid:own_id>/delete/", own.delete, name="delete"),
    path("own/<uuid:own_id>/restore/", own.restore, name="restore"),
]
