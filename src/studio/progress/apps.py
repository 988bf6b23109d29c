from django.apps import AppConfig


class ProgressConfig(AppConfig):
    """Progress."""

    name = "studio.progress"
