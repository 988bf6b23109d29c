from django.apps import AppConfig


class AccountsConfig(AppConfig):
    """Players."""

    name = "studio.accounts"

    def ready(self) -> None:
        """Have what may not be mixed checked."""
        from studio.accounts import checks  # noqa: F401 - registers itself
