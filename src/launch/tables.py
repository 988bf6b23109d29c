"""The tables of the database: made, or brought over from an earlier version, copied first; and who gets at them."""

from __future__ import annotations

import json
import os
import secrets

from launch import copies, roles
from launch.cluster import Cluster
from launch.place import OWN, say, write_whole
from launch.users import RUN, SPOOL, make_room, site_user

SETTINGS, STUDIO = "studio.settings.start", "studio.settings.studio"
SECRETS = RUN / "secrets.json"


def secret_key() -> str:
    """Return the key that the site signs with, made once."""
    key = OWN / "secret-key"
    if not key.exists() or not key.read_text(encoding="ascii").strip():  # emptied by a power cut, say
        write_whole(key, secrets.token_urlsafe(48))
    return key.read_text(encoding="ascii").strip()


def site_environment(cluster: Cluster, settings: str = SETTINGS) -> dict[str, str]:
    """Return what a process of the site's is told: no secret, but in which file, for its eyes alone, they lie."""
    make_room()
    found = {"GIUSTO_SECRET_KEY": secret_key(), "GIUSTO_DB_PASSWORD": roles.passwords(cluster)[roles.SITE]}
    write_whole(SECRETS, json.dumps(found))
    if user := site_user():
        os.chown(SECRETS, user.pw_uid, user.pw_gid)
    return {
        "DJANGO_SETTINGS_MODULE": settings,
        "GIUSTO_DB_PORT": str(cluster.port),
        "GIUSTO_DB_USER": roles.SITE,
        "GIUSTO_SECRETS": str(SECRETS),
        "GIUSTO_RUN": str(RUN),
        "TMPDIR": str(SPOOL),
    }


def owner_environment(cluster: Cluster, settings: str = SETTINGS) -> dict[str, str]:
    """Return the same for whoever changes tables: for this process's own environment only."""
    return {
        "DJANGO_SETTINGS_MODULE": settings,
        "GIUSTO_SECRET_KEY": secret_key(),
        "GIUSTO_DB_PORT": str(cluster.port),
        "GIUSTO_DB_USER": roles.OWNER,
        "GIUSTO_DB_PASSWORD": roles.passwords(cluster)[roles.OWNER],
    }


def make_tables(cluster: Cluster, settings: str = SETTINGS) -> None:
    """Make the tables of a new database, or bring those of an older one over, copied first."""
    if cluster.unfinished.exists():
        cluster.begin_anew()
    roles.make_roles(cluster)
    os.environ.update(owner_environment(cluster, settings))
    import django
    from django.core.management import call_command

    django.setup()
    if not cluster.unfinished.exists() and _is_behind():
        say("bringing the tables of an earlier version over, a copy of all put away first")
        copies.dump(cluster, OWN / "before-migration.dump")
    call_command("migrate", verbosity=0, interactive=False)
    if settings == STUDIO:
        call_command("createcachetable", verbosity=0)
    roles.shut(cluster)
    cluster.unfinished.unlink(missing_ok=True)


def close_tables() -> None:
    """Close this process's connections: from now on the site's own processes work with the tables."""
    from django.db import connection

    connection.close()
    connection.close_pool()  # type: ignore[attr-defined]  # of the PostgreSQL backend alone


def _is_behind() -> bool:
    """Whether some migration is still to be made."""
    from django.db import connection
    from django.db.migrations.executor import MigrationExecutor

    executor = MigrationExecutor(connection)
    return bool(executor.migration_plan(executor.loader.graph.leaf_nodes()))
