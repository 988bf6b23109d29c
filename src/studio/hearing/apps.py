from django.apps import AppConfig


class HearingConfig(AppConfig):
    """The application's place in the project."""

    name = "studio.hearing"
