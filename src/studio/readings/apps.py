from django.apps import AppConfig


class ReadingsConfig(AppConfig):
    """Readings."""

    name = "studio.readings"
