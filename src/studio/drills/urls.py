"""Addresses of the place where the click is set."""

from django.urls import path

from studio.drills import views

app_name = "drills"

urlpatterns = [
    path("", views.set_the_click, name="set"),
    path("click.<str:form>", views.download, name="download"),
    path("sounds/<slug:voice>/<slug:kind>/<int:rate_hz>/", views.sound, name="sound"),
]
