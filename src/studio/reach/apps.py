from django.apps import AppConfig


class ReachConfig(AppConfig):
    """Reach."""

    name = "studio.reach"
