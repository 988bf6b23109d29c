from django.apps import AppConfig


class AccountsConfig(AppConfig):
    """Players."""

    name = "studio.accounts"
