"""Whose things are looked at, and by whom: one's own are one's own; what is another's is looked at, and no more.

A request looks at a player where middleware says so (``teaching/middleware.py``); all of the site then answers as for
that player, in a transaction that can't write. What the player did not agree to show is left out here, by the models.
"""

from __future__ import annotations

from collections.abc import Iterator
from contextlib import contextmanager
from contextvars import ContextVar
from dataclasses import dataclass
from datetime import date
from typing import Any

from django.db import connection, models, transaction

from studio.accounts.models import DEMO, Player


@dataclass(frozen=True, slots=True)
class Looking:
    """A look at what is another's.

    Attributes
    ----------
    player : Player
        Whose things they are.
    viewer : Player or None
        Who looks; None for somebody with a link and no account.
    shows_words, shows_sound : bool
        Whether the player agreed to show their own words, and the sound of takes.
    since : date or None
        The day from which single takes are shown; None from the beginning.
    """

    player: Player
    viewer: Player | None
    shows_words: bool
    shows_sound: bool
    since: date | None

    @property
    def is_of_demo(self) -> bool:
        """Whether it is the invented player whom everybody may look at."""
        return self.player.username == DEMO


_NOW: ContextVar[Looking | None] = ContextVar("looking", default=None)


def looking() -> Looking | None:
    """Return the look that this request is; None where the player looks at their own."""
    return _NOW.get()


def hides_words() -> bool:
    """Whether the player's own words are not shown to whoever looks."""
    look = _NOW.get()
    return look is not None and not look.shows_words


@contextmanager
def looked_at(look: Looking) -> Iterator[None]:
    """Answer as a look: what would write fails, by the database's word."""
    token = _NOW.set(look)
    try:
        with transaction.atomic():
            with connection.cursor() as cursor:
                cursor.execute("set transaction read only")
            yield
    finally:
        _NOW.reset(token)


class OwnWords(models.Model):
    """A row with words that its player wrote for themselves: empty for whoever looks and may not read them."""

    own_words: tuple[str, ...] = ()

    class Meta:  # noqa: D106
        abstract = True

    @classmethod
    def from_db(cls, *args: Any, **kwargs: Any) -> Any:
        """Make an object of a row, without its words where they are not shown."""
        found = super().from_db(*args, **kwargs)
        if hides_words():
            for name in cls.own_words:
                if name in found.__dict__:
                    setattr(found, name, "")
        return found
