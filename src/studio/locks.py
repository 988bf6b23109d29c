"""Locks of the database's own on a piece of work: who dies holding one leaves none behind.

They belong to a connection. A pooler that gives a transaction any connection breaks them (a lock is taken on one and
given back on another): there, ``settings.LOCKS`` names a connection of our own that goes past it.
"""

from __future__ import annotations

from collections.abc import Iterator
from contextlib import contextmanager
from typing import Any

from django.conf import settings
from django.db import connections

RECORDING, TAKE, SCORE, PLAYER = 7_411, 7_412, 7_413, 7_414  # ours: the first keys of our advisory locks
TRIES = 10


class PooledError(RuntimeError):
    """The connection for locks is another from one statement to the next."""


@contextmanager
def alone(kind: int, number: int) -> Iterator[bool]:
    """Hold the lock on one piece of work; give whether it was free. It ends with the connection that holds it."""
    key = [kind, number % 2**31]
    mine = bool(_ask("select pg_try_advisory_lock(%s, %s)", key))
    try:
        yield mine
    finally:
        if mine:
            _ask("select pg_advisory_unlock(%s, %s)", key)


@contextmanager
def held(kind: int, number: int) -> Iterator[None]:
    """Hold the lock on something once it is free, however long that takes."""
    key = [kind, number % 2**31]
    _ask("select pg_advisory_lock(%s, %s)", key)
    try:
        yield
    finally:
        _ask("select pg_advisory_unlock(%s, %s)", key)


def refuse_pooled() -> None:
    """Raise where the connection for locks does not stay the same: every lock would be a lie.

    Raises
    ------
    PooledError
    """
    if len({_ask("select pg_backend_pid()", []) for _ in range(TRIES)}) > 1:
        raise PooledError(
            "the connection for locks goes through a pooler by transaction: give GIUSTO_DB_DIRECT_HOST and _PORT"
        )


def _ask(statement: str, values: list[int]) -> Any:
    with connections[settings.LOCKS].cursor() as cursor:
        cursor.execute(statement, values)
        return cursor.fetchone()[0]
