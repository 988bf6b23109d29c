from django.apps import AppConfig


class ExercisesConfig(AppConfig):
    """Exercises and sessions."""

    name = "studio.exercises"
