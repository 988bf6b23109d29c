"""Locks of the database's own on a piece of work: who dies holding one leaves none behind."""

from __future__ import annotations

from collections.abc import Iterator
from contextlib import contextmanager

from django.db import connection

RECORDING, TAKE, SCORE, PLAYER = 7_411, 7_412, 7_413, 7_414  # ours: the first keys of our advisory locks


@contextmanager
def alone(kind: int, number: int) -> Iterator[bool]:
    """Hold the lock on one piece of work; give whether it was free. It ends with the connection that holds it."""
    key = [kind, number % 2**31]
    with connection.cursor() as cursor:
        cursor.execute("select pg_try_advisory_lock(%s, %s)", key)
        mine = bool(cursor.fetchone()[0])
    try:
        yield mine
    finally:
        if mine:
            with connection.cursor() as cursor:
                cursor.execute("select pg_advisory_unlock(%s, %s)", key)


@contextmanager
def held(kind: int, number: int) -> Iterator[None]:
    """Hold the lock on something once it is free, however long that takes."""
    key = [kind, number % 2**31]
    with connection.cursor() as cursor:
        cursor.execute("select pg_advisory_lock(%s, %s)", key)
    try:
        yield
    finally:
        with connection.cursor() as cursor:
            cursor.execute("select pg_advisory_unlock(%s, %s)", key)
