from django.apps import AppConfig


class ArchiveConfig(AppConfig):
    """The archive."""

    name = "studio.archive"
