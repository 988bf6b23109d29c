from django.apps import AppConfig


class MethodConfig(AppConfig):
    """Method."""

    name = "studio.method"
