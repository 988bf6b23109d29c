from django.apps import AppConfig


class PiecesConfig(AppConfig):
    """Pieces."""

    name = "studio.pieces"
