from django.apps import AppConfig


class TakesConfig(AppConfig):
    """Takes."""

    name = "studio.takes"
