from django.apps import AppConfig


class TeachingConfig(AppConfig):
    """The application's place in the project."""

    name = "studio.teaching"
