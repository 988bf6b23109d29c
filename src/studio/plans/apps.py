from django.apps import AppConfig


class PlansConfig(AppConfig):
    """Plans."""

    name = "studio.plans"

    def ready(self) -> None:
        """Let recordings be of what is on Today."""
        from studio.plans.recorded import on_today
        from studio.recordings.among import SOURCES

        SOURCES.append(on_today)
