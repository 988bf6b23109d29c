"""The database's two roles: one owns the tables and changes them, the other works with what is in them.

Neither is a superuser. Whose password is the cluster's own, the server's superuser, makes them and writes copies; it is
never given to a process that reads requests, files or sounds.
"""

from __future__ import annotations

import json
import secrets
from contextlib import suppress
from pathlib import Path

import psycopg
from psycopg import sql

from launch.cluster import DATABASE, Cluster
from launch.place import write_whole

OWNER, SITE = "giusto_owner", "giusto_site"
LOGIN = "login nosuperuser nocreatedb nocreaterole"
SETTLED = (
    f"alter database {DATABASE} owner to {OWNER}",
    f"alter schema public owner to {OWNER}",
    "revoke create on schema public from public",
    f"grant usage on schema public to {SITE}",
    f"grant select, insert, update, delete on all tables in schema public to {SITE}",
    f"grant usage, select on all sequences in schema public to {SITE}",
    f"alter default privileges for role {OWNER} in schema public"
    f" grant select, insert, update, delete on tables to {SITE}",
    f"alter default privileges for role {OWNER} in schema public grant usage, select on sequences to {SITE}",
)
# What the site's role may not do, by table.
SHUT = (("insert, update, delete", "django_migrations"), ("update, delete", "joining_auditline"))
THEIRS = """
    select relname from pg_class join pg_namespace on pg_namespace.oid = relnamespace
    where nspname = 'public' and relkind in ('r', 'p', 'v') and pg_get_userbyid(relowner) <> %s
"""


def passwords(cluster: Cluster) -> dict[str, str]:
    """Return the roles' passwords, made once: for the eyes of whoever starts the database."""
    file = passwords_file(cluster)
    try:
        found = json.loads(file.read_text(encoding="ascii"))
        return {role: str(found[role]) for role in (OWNER, SITE)}
    except (OSError, ValueError, KeyError, TypeError):  # not there, or emptied by a power cut: they are set anew
        made = {role: secrets.token_hex(24) for role in (OWNER, SITE)}
        write_whole(file, json.dumps(made))
        return made


def passwords_file(cluster: Cluster) -> Path:
    """Return where they lie: beside the data, as the superuser's does."""
    return cluster.folder.with_name(f"{cluster.folder.name}.roles")


def make_roles(cluster: Cluster) -> None:
    """Make the roles, or make them right; give the owner what an earlier version's superuser owned."""
    with cluster.connection(DATABASE) as connection:
        there = {name for (name,) in connection.execute("select rolname from pg_roles")}
        for role, password in passwords(cluster).items():
            verb = "alter" if role in there else "create"
            command = sql.SQL(f"{verb} role {{}} {LOGIN} password {{}}")
            connection.execute(command.format(sql.Identifier(role), sql.Literal(password)))
        for statement in SETTLED[:3]:
            connection.execute(statement)
        for (table,) in connection.execute(THEIRS, [OWNER]).fetchall():
            connection.execute(sql.SQL("alter table {} owner to {}").format(*map(sql.Identifier, (table, OWNER))))
        for statement in SETTLED[3:]:
            connection.execute(statement)


def shut(cluster: Cluster) -> None:
    """Leave the list of migrations, once it is there, to the owner; lines of who did what are written once."""
    with cluster.connection(DATABASE) as connection:
        for rights, table in SHUT:
            with suppress(psycopg.errors.UndefinedTable):
                connection.execute(f"revoke {rights} on {table} from {SITE}")
