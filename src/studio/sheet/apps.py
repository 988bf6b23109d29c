from django.apps import AppConfig


class SheetConfig(AppConfig):
    """Drawing."""

    name = "studio.sheet"
