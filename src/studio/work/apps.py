"""What a player is working on: exercises and pieces by when they are due."""

from django.apps import AppConfig


class WorkConfig(AppConfig):
    """The room of work."""

    name = "studio.work"
