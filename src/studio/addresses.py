"""The addresses that scripts ask for, as templates: every page hands them over, and no script writes one."""

from __future__ import annotations

import json
from collections.abc import Iterator
from contextlib import contextmanager
from functools import cache
from uuid import UUID

from django.http import HttpRequest
from django.urls import get_script_prefix, reverse, set_script_prefix

ANY_TAKE = UUID(int=0)
ANY_NUMBER = 987_654_321


@contextmanager
def below(prefix: str) -> Iterator[None]:
    """Have addresses stand below another one: ``/`` for those of whoever is here."""
    before = get_script_prefix()
    set_script_prefix(prefix)
    try:
        yield
    finally:
        set_script_prefix(before)


@cache
def scripts_addresses() -> str:
    """Return the addresses as JSON; names in braces stand for what is put in. They are those of whoever is here."""
    with below("/"):
        return json.dumps(_found())


def _found() -> dict[str, str]:
    found = {name: reverse(f"takes:{name}", args=[ANY_TAKE]) for name in ("begin", "end", "discard", "parted")}
    found |= {name: reverse(f"takes:{name}", args=[ANY_TAKE, ANY_NUMBER]) for name in ("batch", "silence")}
    found |= {name: reverse(f"hearing:{name}") for name in ("listen", "strokes", "trip", "taps", "learn")}
    found["stroke"] = reverse("hearing:stroke", args=["SOUND", ANY_NUMBER, 1]).replace("/1/", "/{rate}/")
    found["click"] = reverse("drills:sound", args=["VOICE", "KIND", 1]).replace("/1/", "/{rate}/")
    found["phone"] = reverse("takes:phone")
    found["phone-now"] = reverse("takes:phone-now")
    found["phone-sound"] = reverse("takes:phone-sound", args=[ANY_TAKE])
    found["loudness"] = reverse("drills:loudness")
    found["recording"] = reverse("recordings:drop")
    found["alive"] = reverse("alive")
    named = {
        str(ANY_TAKE): "{take}",
        str(ANY_NUMBER): "{number}",
        "SOUND": "{sound}",
        "VOICE": "{voice}",
        "KIND": "{kind}",
    }
    for name, address in found.items():
        for text, put in named.items():
            address = address.replace(text, put)
        found[name] = address
    return found


def addresses(request: HttpRequest) -> dict[str, str]:
    """Give every page the addresses that its scripts ask for."""
    return {"addresses": scripts_addresses()}
