"""Rows that no page can load, since some version or some hand wrote what Python has no value for: found, put away."""

from __future__ import annotations

import json
from collections.abc import Iterator
from dataclasses import dataclass
from typing import Any

from django.apps import apps
from django.db import DatabaseError, connection, models, transaction

CHUNK = 500


@dataclass(frozen=True, slots=True)
class Unloadable:
    """A row, why it can't be loaded, and all that it holds, as PostgreSQL writes it."""

    model: type[models.Model]
    key: Any
    problem: str
    content: dict[str, Any]

    def __str__(self) -> str:
        return f"{self.model._meta.label} {self.key}: {self.problem}"


def unloadable() -> Iterator[Unloadable]:
    """Yield every row of the site's that can't be loaded."""
    for model in apps.get_models():
        if model.__module__.startswith("studio."):
            keys = list(model._base_manager.order_by("pk").values_list("pk", flat=True))
            for at in range(0, len(keys), CHUNK):
                yield from _among(model, keys[at : at + CHUNK])


@transaction.atomic
def put_away(row: Unloadable) -> None:
    """Delete a row that was written down before, and what hangs on it."""
    row.model._base_manager.filter(pk=row.key).only("pk").delete()


def _among(model: type[models.Model], keys: list[Any]) -> Iterator[Unloadable]:
    problem = _problem(model, keys)
    if not problem:
        return
    if len(keys) > 1:
        half = len(keys) // 2
        yield from _among(model, keys[:half])
        yield from _among(model, keys[half:])
        return
    yield Unloadable(model, keys[0], problem, _content(model, keys[0]))


def _problem(model: type[models.Model], keys: list[Any]) -> str:
    """Return why some of these rows can't be loaded, empty where all can."""
    try:
        with transaction.atomic():
            list(model._base_manager.filter(pk__in=keys))
    except (DatabaseError, ValueError, TypeError, OverflowError) as error:
        return str(error).partition("\n")[0]
    return ""


def _content(model: type[models.Model], key: Any) -> dict[str, Any]:
    table, column = connection.ops.quote_name(model._meta.db_table), model._meta.pk.column
    with connection.cursor() as cursor:
        cursor.execute(f"select row_to_json(t)::text from {table} t where t.{column} = %s", [key])  # noqa: S608 - ours
        found: dict[str, Any] = json.loads(cursor.fetchone()[0])
    return found
