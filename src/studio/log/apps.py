from django.apps import AppConfig


class LogConfig(AppConfig):
    """The log."""

    name = "studio.log"
