from django.apps import AppConfig


class LaddersConfig(AppConfig):
    """Ladders."""

    name = "studio.ladders"
