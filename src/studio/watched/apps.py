from django.apps import AppConfig


class WatchedConfig(AppConfig):
    """The application's place in the project."""

    name = "studio.watched"
