"""Addresses of the plan."""

from django.urls import path

from studio.plans import calendar, views, week_views

app_name = "plan"

urlpatterns = [
    path("today/", views.today, name="today"),
    path("today/begin/", views.begin, name="begin"),
    path("today/over/", views.over, name="over"),
    path("today/swap/", views.swap, name="swap"),
    path("today/minutes/", views.shorten, name="shorten"),
    path("today/rest/", views.rest, name="rest"),
    path("today/close/", views.close, name="close"),
    path("weeks/", week_views.weeks, name="weeks"),
    path("weeks/choose/", week_views.choose, name="choose"),
    path("weeks/plan.ics", calendar.take_out, name="ics"),
    path("weeks/feed/", week_views.feed, name="set-feed"),
    path("calendar/<str:token>.ics", calendar.feed, name="feed"),
    path("routine/", week_views.routine, name="routine"),
    path("routine/preset/", views.preset, name="preset"),
    path("routine/file/", week_views.routine_out, name="routine-file"),
    path("routine/import/", week_views.routine_in, name="routine-import"),
]
