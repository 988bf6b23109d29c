"""Addresses of how a player is heard."""

from django.urls import path

from studio.hearing import views

app_name = "hearing"

urlpatterns = [
    path("", views.heard, name="heard"),
    path("listen/", views.listen, name="listen"),
    path("strokes/", views.strokes, name="strokes"),
    path("still/", views.still, name="still"),
    path("learn/", views.learn, name="learn"),
    path("instruments/<int:pk>/forget/", views.forget_instrument, name="forget-instrument"),
    path("trip/", views.trip, name="trip"),
    path("taps/", views.taps, name="taps"),
    path("delays/<int:pk>/forget/", views.forget, name="forget"),
    path("stroke/<slug:sound>/<int:number>/<int:rate>/", views.stroke, name="stroke"),
]
