"""Odd things to send, drawn by Hypothesis: words, JSON, messages that are nearly right, files that are broken."""

from __future__ import annotations

import io
import json
import re
import zipfile
from functools import cache
from pathlib import Path
from typing import Any

import numpy as np
import soundfile
from hypothesis import strategies as st
from hypothesis.strategies import SearchStrategy
from pydantic import BaseModel

from studio.takes.messages import Begin, End, FromPhone, Notes
from tests.giusto.drill.passage.scores import bar, musicxml

STUDIO = Path(__file__).parents[2] / "src/studio"
# What the pages and the views call their fields.
CALLED = re.compile(r'(?:name=|GET\.get\(|POST\.get\()"([a-z_]+)"')
SOURCES = [file for kind in ("*.html", "*.py") for file in STUDIO.rglob(kind)]
NAMES = sorted({name for file in SOURCES for name in CALLED.findall(file.read_text(encoding="utf-8"))})
ODD = (
    "",
    " ",
    "0",
    "-1",
    "3.5",
    "٣",
    "9" * 400,
    "-" + "9" * 400,
    "1e999",
    "nan",
    "Infinity",
    "a\x00b",
    "\u202eabc",
    "🥁" * 50,
    "a" * 5000,
    "null",
    "[]",
    "{}",
    "[" * 3000,
    '{"a": 1e400}',
    "../../etc/passwd",
    "//elsewhere.example/",
    "/today/",
    "javascript:alert(1)",
    "2026-02-30",
    "0001-01-01",
    "9999-12-31",
    "1,2,3",
    "<script>",
    "%00",
    "climb-1",
    "every-beat",
)
MESSAGES: tuple[type[BaseModel], ...] = (Begin, Notes, End, FromPhone)
FILE_NAMES = ("a.wav", "b.musicxml", "c.json", "d", "e.zip", "f.csv", "ü\u202e.mid", "g.flac")


@cache
def texts() -> SearchStrategy[str]:
    """Return words that a form or an address may carry; surrogates are for JSON, which can write them."""
    return st.one_of(st.sampled_from(ODD), st.text(st.characters(exclude_categories=("Cs",)), max_size=40))


@cache
def values() -> SearchStrategy[Any]:
    """Return whatever JSON can hold, and what it can't: numbers that are none, halves of characters."""
    numbers = st.one_of(st.integers(), st.floats(), st.sampled_from((10**400, -(10**30), 2**53, 1e308)))
    plain = st.one_of(st.none(), st.booleans(), numbers, texts(), st.text(max_size=8))
    return st.recursive(
        plain,
        lambda inner: st.one_of(
            st.lists(inner, max_size=3), st.dictionaries(st.sampled_from(NAMES), inner, max_size=3)
        ),
        max_leaves=5,
    )


@cache
def bodies() -> SearchStrategy[str]:
    """Return bodies of requests: messages that are nearly right, other JSON, and no JSON."""
    messages = st.one_of(*(nearly(model.model_json_schema()) for model in MESSAGES))
    return st.one_of(messages.map(_written), values().map(_written), texts())


def _written(plain: Any) -> str:
    return json.dumps(plain)[:500_000]


def nearly(schema: dict[str, Any]) -> SearchStrategy[Any]:
    """Return values as a JSON Schema asks for them, each part now and then another."""
    return _like(schema, schema.get("$defs", {}))


def _like(schema: dict[str, Any], defs: dict[str, Any]) -> SearchStrategy[Any]:
    right = _right(schema, defs)
    return st.integers(0, 19).flatmap(lambda n: right if n else values())


def _right(schema: dict[str, Any], defs: dict[str, Any]) -> SearchStrategy[Any]:
    if "$ref" in schema:
        return _right(defs[schema["$ref"].rpartition("/")[2]], defs)
    if some := schema.get("anyOf") or schema.get("prefixItems"):
        each = [_like(one, defs) for one in some]
        return st.one_of(*each) if "anyOf" in schema else st.tuples(*each).map(list)
    if "enum" in schema or "const" in schema:
        return st.sampled_from(schema.get("enum") or [schema["const"]])
    kind = schema.get("type")
    if kind == "object":
        known = {name: _like(one, defs) for name, one in schema.get("properties", {}).items()}
        needed = {name: known.pop(name) for name in schema.get("required", []) if name in known}
        return st.fixed_dictionaries(needed, optional=known)
    if kind == "array":
        return st.lists(_like(schema.get("items", {}), defs), max_size=3)
    if kind in ("number", "integer"):
        low, high = schema.get("minimum", -1e6), schema.get("maximum", 1e6)
        return st.floats(low, high) if kind == "number" else st.integers(int(low), int(high))
    if schema.get("format") == "date-time":
        return st.datetimes().map(lambda at: f"{at.isoformat()}Z")
    return {"string": texts(), "boolean": st.booleans()}.get(str(kind), values())


@cache
def whole_files() -> tuple[bytes, ...]:
    """Return files that are right, of the kinds that the site takes, and beginnings of some that are not."""
    sound, packed = io.BytesIO(), io.BytesIO()
    tone = np.sin(np.arange(2000) / 9)
    soundfile.write(sound, tone, 8000, format="WAV")
    soundfile.write(packed, tone, 8000, format="FLAC")
    zipped = io.BytesIO()
    with zipfile.ZipFile(zipped, "w", zipfile.ZIP_DEFLATED) as file:
        file.writestr("manifest.json", '{"giusto": "archive/1", "counts": {}, "files": {}}')
        file.writestr("drills.json", "[]")
    return (
        sound.getvalue(),
        packed.getvalue(),
        zipped.getvalue(),
        musicxml(bar("q q q q", number=1, metre="4/4")),
        b"at,rung,clean\n1,1,1\n",
        b'{"giusto": "drill/1"}',
        b'{"giusto": "routine/1", "minutes": 1e999}',
        b"MThd" + b"\xff" * 40,
        b"[" * 100_000,
        b"\xff\xfe" + b"<\x00" * 50,
    )


@cache
def files() -> SearchStrategy[bytes]:
    """Return files that are right, cut off, or changed in a byte or two; and bytes at random."""
    right = st.sampled_from(whole_files())
    cut = st.tuples(right, st.floats(0, 1)).map(lambda one: one[0][: int(len(one[0]) * one[1])])
    changes = st.lists(st.tuples(st.floats(0, 1, exclude_max=True), st.integers(0, 255)), min_size=1, max_size=3)
    return st.one_of(right, cut, st.tuples(right, changes).map(_changed), st.binary(max_size=200))


def _changed(one: tuple[bytes, list[tuple[float, int]]]) -> bytes:
    found = bytearray(one[0])
    for where, byte in one[1]:
        found[int(where * len(found))] = byte
    return bytes(found)
