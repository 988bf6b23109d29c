"""A drill as the words of its sentence, and these as an address: a link that carries the drill."""

from __future__ import annotations

from functools import reduce
from typing import Any
from urllib.parse import urlencode

from giusto.drill import Drill
from giusto.drill.file import SINCE, STRAIGHT
from studio.drills.sentence.table import NEEDED, PLAIN, TABLE, Word, Words


def words_of(drill: Drill) -> dict[str, str]:
    """Return the words of a drill's sentence, every one of them."""
    plain = drill.plain()
    words = {**PLAIN, "name": drill.name}
    for word in TABLE:
        text = word.read(drill) if word.read else _at(plain, word.path)
        if text is not None:
            words[word.name] = str(text)
    return words | {word.name: PLAIN[word.name] for word in TABLE if not counts(word, words)}


def plain_of(words: Words) -> dict[str, Any]:
    """Return the plain drill that the (checked) words make; the core has the last word on it."""
    plain: dict[str, Any] = {"name": words["name"]}
    for word in TABLE:
        if word.path and counts(word, words):
            value = words[word.name]
            _set(plain, word.path, word.write(value, words) if word.write else value)
    if words["on"] == "nowhere":
        plain["clicks"]["silence"] = None  # there is nothing to fall silent
    return {"giusto": _version(plain, is_free=words["on"] == "nowhere"), **plain}


def _version(plain: dict[str, Any], *, is_free: bool) -> str:
    """Return the earliest version of the file that knows all that is said; what says nothing is left out."""
    version = 1
    for (part, name), since in SINCE.items():
        if plain[part].get(name) in (None, STRAIGHT):
            plain[part].pop(name, None)
        else:
            version = max(version, since)
    return "free/1" if is_free else f"drill/{version}"


def counts(word: Word, words: Words) -> bool:
    """Whether a word counts beside the others."""
    return word.counts is None or str(words.get(word.counts[0])) in word.counts[1]


def query(words: Words, **changes: Any) -> str:
    """Return words, some of them changed, as the query of an address; plain ones are left out."""
    return urlencode({k: v for k, v in {**words, **changes}.items() if str(v) != PLAIN.get(k)})


def is_whole(words: Words) -> bool:
    """Whether an address carries a whole drill; what it leaves out is then plain."""
    return words.keys() >= NEEDED


def word_at(path: str) -> Word | None:
    """Return the word that a fault of the core belongs to, by the start of its path."""
    found = [word for word in TABLE if word.path and path.startswith(word.path)]
    return max(found, key=lambda word: len(word.path), default=None)


def _at(plain: Any, path: str) -> Any:
    """Return the value at a path, None where something on the way is not there."""
    return reduce(lambda found, name: found.get(name) if isinstance(found, dict) else None, path.split("."), plain)


def _set(plain: dict[str, Any], path: str, value: Any) -> None:
    *way, last = path.split(".")
    for name in way:
        plain = plain.setdefault(name, {})
    plain[last] = value
