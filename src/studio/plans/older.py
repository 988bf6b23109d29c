"""Days as versions before 0.5 wrote them, by names: their words by entries. For the migration, and older archives."""

from __future__ import annotations

from collections.abc import Iterable, Mapping, Sequence
from typing import Any

Spec = Mapping[str, Any]


def names_in(spec: Spec | None, swapped: Iterable[Mapping[str, str]]) -> list[str]:
    """Return the names that a routine's file and the days beside it play by, each once."""
    named = [one.get("ladder") or one["name"] for one in (spec or {}).get("exercises", ())]
    return list(dict.fromkeys([*named, *(name for day in swapped for name in day.values())]))


def by_entries(
    over: Sequence[str], swapped: Mapping[str, str], spec: Spec | None, entries: Mapping[str, str]
) -> tuple[list[str], dict[str, str]]:
    """Return what is over and what is swapped of a day by entries.

    Parameters
    ----------
    over : sequence of str
        Words ``block/exercise/key``.
    swapped : mapping of str to str
        A name by the word of its slot.
    spec : mapping or None
        ``routine/1``
    entries : mapping of str to str
        The entry of each name, by the name in small letters.
    """
    starts = {}
    for one in (spec or {}).get("exercises", ()):
        if entry := entries.get((one.get("ladder") or one["name"]).casefold()):
            starts[f"{one['block']}/{one['name']}/"] = f"{one['block']}/{entry}/"
    words = {word: _word(word, starts) for word in (*over, *swapped)}
    there = {words[word]: entries.get(name.casefold(), "") for word, name in swapped.items()}
    return [words[word] for word in over], {word: entry for word, entry in there.items() if entry}


def _word(word: str, starts: Mapping[str, str]) -> str:
    start = next((start for start in starts if word.startswith(start)), "")
    return f"{starts[start]}{word.removeprefix(start)}" if start else word
