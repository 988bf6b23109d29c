"""Address of the method page."""

from django.urls import path

from studio.method import views

app_name = "method"

urlpatterns = [path("", views.page, name="page")]
