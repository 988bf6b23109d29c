from django.apps import AppConfig


class JoiningConfig(AppConfig):
    """The application's place in the project."""

    name = "studio.joining"
