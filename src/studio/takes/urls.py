"""Addresses of takes: playing, what the browser sends, what can be done to one."""

from django.urls import path

from studio.takes import api, listening, phone, views

app_name = "takes"

urlpatterns = [
    path("play/", views.play, name="play"),
    path("ear/", phone.page, name="phone"),
    path("ear/now/", phone.now, name="phone-now"),
    path("takes/<uuid:take_id>/phone/", phone.sound, name="phone-sound"),
    path("takes/<uuid:take_id>/set/", views.set_again, name="set"),
    path("takes/<uuid:take_id>/note/", views.annotate, name="note"),
    path("takes/<uuid:take_id>/move/", views.move, name="move"),
    path("takes/<uuid:take_id>/delete/", views.delete, name="delete"),
    path("takes/<uuid:take_id>/restore/", views.restore, name="restore"),
    path("takes/<uuid:take_id>/download/", views.download, name="download"),
    path("takes/<uuid:take_id>/sound/", listening.sound, name="sound"),
    path("takes/<uuid:take_id>/sound/delete/", listening.delete_sound, name="delete-sound"),
    path("takes/<uuid:take_id>/begin/", api.begin, name="begin"),
    path("takes/<uuid:take_id>/batches/<int:number>/", api.batch, name="batch"),
    path("takes/<uuid:take_id>/end/", api.end, name="end"),
    path("takes/<uuid:take_id>/discard/", api.discard, name="discard"),
    path("takes/<uuid:take_id>/silences/<int:number>/", api.last_silence, name="silence"),
    path("takes/<uuid:take_id>/parted/", api.has_parted, name="parted"),
]
