"""The address of reach."""

from django.urls import path

from studio.reach import views

app_name = "reach"

urlpatterns = [path("", views.page, name="page")]
