from django.apps import AppConfig


class DrillsConfig(AppConfig):
    """Drills."""

    name = "studio.drills"
