from django.apps import AppConfig


class DemoConfig(AppConfig):
    """The demo's player."""

    name = "studio.demo"
