"""The tables of the database: made, or brought over from an earlier version, copied first."""

from __future__ import annotations

import secrets

from launch import copies
from launch.cluster import Cluster
from launch.place import OWN, write_whole


def settings_environment() -> dict[str, str]:
    """Return what the Django settings read beside the database: module and key."""
    key = OWN / "secret-key"
    if not key.exists() or not key.read_text(encoding="ascii").strip():  # emptied by a power cut, say
        write_whole(key, secrets.token_urlsafe(48))
    return {
        "DJANGO_SETTINGS_MODULE": "studio.settings.start",
        "GIUSTO_SECRET_KEY": key.read_text(encoding="ascii").strip(),
    }


def make_tables(cluster: Cluster) -> None:
    """Make the tables of a new database, or bring those of an older one over, copied first."""
    if cluster.unfinished.exists():
        cluster.begin_anew()
    import django
    from django.core.management import call_command

    django.setup()
    if not cluster.unfinished.exists() and _is_behind():
        copies.dump(cluster, OWN / "before-migration.dump")
    call_command("migrate", verbosity=0, interactive=False)
    cluster.unfinished.unlink(missing_ok=True)


def _is_behind() -> bool:
    """Whether some migration is still to be made."""
    from django.db import connection
    from django.db.migrations.executor import MigrationExecutor

    executor = MigrationExecutor(connection)
    return bool(executor.migration_plan(executor.loader.graph.leaf_nodes()))
