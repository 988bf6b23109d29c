from django.apps import AppConfig


class InstalledConfig(AppConfig):
    """The application's place in the project."""

    name = "studio.installed"
