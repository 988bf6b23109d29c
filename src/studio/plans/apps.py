from django.apps import AppConfig


class PlansConfig(AppConfig):
    """Plans."""

    name = "studio.plans"
