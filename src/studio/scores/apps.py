from django.apps import AppConfig


class ScoresConfig(AppConfig):
    """The application's place in the project."""

    name = "studio.scores"
