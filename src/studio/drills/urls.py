"""Addresses of the place where the click is set."""

from django.urls import path

from studio.drills import own_clicks, own_drills, scores, views

app_name = "drills"

urlpatterns = [
    path("", views.set_the_click, name="set"),
    path("taps/", views.taps, name="taps"),
    path("click.<str:form>", views.download, name="download"),
    path("sounds/<slug:voice>/<slug:kind>/<int:rate_hz>/", views.sound, name="sound"),
    path("delivery/", own_drills.set_delivery, name="delivery"),
    path("delivery/loudness/", own_drills.set_loudness, name="loudness"),
    path("delivery/own/", own_clicks.own_click, name="own-click"),
    path("delivery/own/<slug:key>/away/", own_clicks.put_away, name="put-click-away"),
    path("care/", own_drills.care, name="care"),
    path("own/keep/", own_drills.keep, name="keep"),
    path("own/score/", scores.from_score, name="score"),
    path("own/import/", own_drills.bring_in, name="import"),
    path("own/drills.zip", own_drills.take_out, name="export"),
    path("own/<uuid:own_id>/copy/", own_drills.copy, name="copy"),
    path("own/<uuid:own_id>/delete/", own_drills.delete, name="delete"),
    path("own/<uuid:own_id>/restore/", own_drills.restore, name="restore"),
]
