"""Ids that come from outside."""

from __future__ import annotations

from uuid import UUID

NOBODY = UUID(int=0)


def uuid_of(text: UUID | str | None) -> UUID:
    """Return the id that a text is in its one usual form; for anything else the nil id, which no row has."""
    try:
        found = UUID(str(text))
    except ValueError:
        return NOBODY
    return found if str(found) == str(text) else NOBODY
