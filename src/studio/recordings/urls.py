"""Addresses of recordings made elsewhere."""

from django.urls import path

from studio.recordings import views

app_name = "recordings"

urlpatterns = [
    path("", views.drop, name="drop"),
    path("<uuid:upload_id>/", views.upload, name="upload"),
    path("<uuid:upload_id>/choose/<int:number>/", views.choose, name="choose"),
    path("<uuid:upload_id>/cancel/", views.cancel, name="cancel"),
]
