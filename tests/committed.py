"""Tests whose work is committed, since others see it: another thread, a browser, a worker."""

from __future__ import annotations

from django.db import connection
from django.test import TransactionTestCase

KEPT = ("django_migrations", "django_content_type", "auth_permission")  # the same for every test


class CommittedTestCase(TransactionTestCase):
    """Django's, but afterwards only those tables are emptied in which something is.

    Django empties all with their indices, and writes its own rows anew: three times as long (decision 68).
    """

    def _fixture_teardown(self) -> None:
        quoted = connection.ops.quote_name
        with connection.cursor() as cursor:
            tables = [name for name in connection.introspection.table_names(cursor) if name not in KEPT]
            asked = " union all ".join(f"select '{name}' where exists (select from {quoted(name)})" for name in tables)
            cursor.execute(asked)
            if full := ", ".join(quoted(name) for (name,) in cursor.fetchall()):
                cursor.execute(f"truncate {full} cascade")
