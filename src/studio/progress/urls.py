"""Addresses of progress."""

from django.urls import path

from studio.progress import views

app_name = "progress"

urlpatterns = [
    path("", views.page, name="page"),
    path("figures/", views.figures_page, name="figures"),
    path("exercises/", views.exercises, name="exercises"),
    path("month/", views.this_month, name="this-month"),
    path("month/<int:year>/<int:number>/", views.month, name="month"),
    path("sheet/", views.sheet, name="sheet"),
]
