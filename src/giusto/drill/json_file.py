"""JSON files of ours, drills and ladders: read into plain values, each flaw of the text told in a line."""

from __future__ import annotations

import json
import re
from typing import Any

from giusto.errors import DrillError, Fault

MAX_FIELDS = 100  # ours: of one object; none has more than ten
MAX_BYTES = 1_000_000  # ours: a drill with every field in use stays under 200 kB
HALF = re.compile(r"\\u[dD][89a-fA-F]")  # may be half a character


def read_json(text: str | bytes) -> object:
    """Return what a JSON file of ours holds, as plain values; drills and ladders are such files.

    Raises
    ------
    DrillError
        For a file that is too large, is no JSON or no UTF-8, or has a field twice in one object.
    """
    if len(text) > MAX_BYTES:
        raise DrillError([Fault("", f"the file is larger than {MAX_BYTES:,} bytes", "too_large")])
    try:
        decoded = text.decode("utf-8-sig") if isinstance(text, bytes) else text
        found = json.loads(decoded, object_pairs_hook=_unique, parse_constant=_refuse_constant)
    except DrillError:
        raise
    except UnicodeDecodeError as error:
        raise DrillError([Fault("", f"not UTF-8 text (byte {error.start})", "not_json")]) from None
    except json.JSONDecodeError as error:
        where = f"line {error.lineno}, column {error.colno}"
        raise DrillError([Fault("", f"not JSON: {error.msg} at {where}", "not_json")]) from None
    except (RecursionError, ValueError):
        raise DrillError([Fault("", "not JSON: nested too deeply or a number too long", "not_json")]) from None
    if HALF.search(decoded) and not _is_text(found):
        raise DrillError([Fault("", "not text: half a character (a lone surrogate) in it", "not_text")])
    return found


def _unique(pairs: list[tuple[str, Any]]) -> dict[str, Any]:
    if len(pairs) > MAX_FIELDS:
        problem = f"one object has {len(pairs):,} fields, allowed are {MAX_FIELDS} at most"
        raise DrillError([Fault("", problem, "too_many_fields")])
    fields = dict(pairs)
    if len(fields) < len(pairs):
        seen: set[str] = set()
        twice = next(name for name, _ in pairs if name in seen or seen.add(name))  # type: ignore[func-returns-value]
        raise DrillError([Fault(twice[:60], "stands twice in one object, allowed is once", "twice")])
    return fields


def _is_text(found: object) -> bool:
    """Whether all texts of a value can be written as UTF-8."""
    try:
        return bool(json.dumps(found, ensure_ascii=False).encode())
    except UnicodeEncodeError:
        return False


def _refuse_constant(name: str) -> None:
    raise DrillError([Fault("", f"{name} is no number that a drill may use", "not_finite")])
