"""A column of JSON that is typed in Python: a frozen pydantic model, written and read as what JSON takes."""

from __future__ import annotations

from typing import Any

from django.db import models
from django.db.models.fields.json import KeyTransform
from pydantic import BaseModel


class TypedJSONField(models.JSONField):
    """A JSON column whose values are of one pydantic model.

    Parameters
    ----------
    model : type of BaseModel
        Every field with a default, so that an empty object is one.
    """

    def __init__(self, model: type[BaseModel] | None = None, **options: Any) -> None:
        self.typed = model
        super().__init__(**options)

    def deconstruct(self) -> Any:
        """Return what a migration says of it: a JSON column, whatever its type in Python."""
        name, _, arguments, options = super().deconstruct()
        return name, "django.db.models.JSONField", arguments, {**options, "default": dict}

    def from_db_value(self, value: Any, expression: Any, connection: Any) -> Any:
        """Return the model of what the database holds; of a part of it, that part."""
        found = super().from_db_value(value, expression, connection)
        return found if isinstance(expression, KeyTransform) else self.to_python(found)

    def to_python(self, value: Any) -> Any:
        """Return the model of plain values."""
        return self.typed.model_validate(value) if self.typed and isinstance(value, dict) else value

    def get_db_prep_value(self, value: Any, connection: Any, prepared: bool = False) -> Any:
        """Return what the database holds: what was said, and no defaults."""
        return super().get_db_prep_value(plain(value), connection, prepared)

    def value_to_string(self, obj: Any) -> Any:
        """Return what a serializer writes."""
        return plain(self.value_from_object(obj))


def plain(value: Any) -> Any:
    """Return a typed value as what JSON takes; any other as it is."""
    return value.model_dump(mode="json", exclude_defaults=True) if isinstance(value, BaseModel) else value
