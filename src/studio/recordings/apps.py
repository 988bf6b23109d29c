from django.apps import AppConfig


class RecordingsConfig(AppConfig):
    """The application's place in the project."""

    name = "studio.recordings"
