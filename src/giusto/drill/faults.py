"""Wording for what a model refuses: the field's path, what was found, what is allowed."""

from __future__ import annotations

import json
from collections.abc import Mapping
from typing import Any

from giusto.drill import position
from giusto.errors import Fault

# The union branches that pydantic names inside a path; a reader of the file never sees them.
_BRANCHES = {"word", "places", "segments", "fixed", "growing", "random", "notch", "number"}
_TYPE_WORDS = {
    "int": "a whole number",
    "float": "a number",
    "string": "a text",
    "tuple": "a list",
    "model": "an object",
    "model_attributes": "an object",
}


def fault_of(detail: Mapping[str, Any]) -> Fault:
    """Return a fault for one entry of pydantic's ``ValidationError.errors()``.

    Parameters
    ----------
    detail : mapping
        With ``type``, ``loc``, ``input``, ``msg`` and perhaps ``ctx``.

    Returns
    -------
    Fault
        Such as ``tempo.bpm: is 500, allowed is at most 400``.
    """
    kind, context = detail["type"], detail.get("ctx", {})
    path = path_text(detail["loc"])
    if kind == "missing":
        return Fault(path, "is missing, and is required", "missing")
    if kind == "extra_forbidden":
        return Fault(path, "is not a field that this file may have", "unknown_field")
    if kind == "union_tag_not_found":
        return Fault(f"{path}.kind", "is missing, and is required", "missing")
    return Fault(path, f"is {_shown(detail['input'])}, allowed is {_allowed(kind, context, detail)}", kind)


def path_text(location: tuple[int | str, ...]) -> str:
    """Return ``("part", "play", 0)`` as ``part.play[0]``."""
    path = ""
    for step in location:
        if isinstance(step, int):
            path += f"[{step}]"
        elif step not in _BRANCHES:
            path += f".{step}" if path else step
    return path


def _allowed(kind: str, context: Mapping[str, Any], detail: Mapping[str, Any]) -> str:
    if kind in ("greater_than_equal", "less_than_equal"):
        return f"at least {context['ge']:g}" if "ge" in context else f"at most {context['le']:g}"
    if kind == "literal_error":
        return str(context["expected"])
    if kind == "union_tag_invalid":
        return f"a kind of {context['expected_tags']}"
    if kind == "string_pattern_mismatch":
        return position.RULE if context["pattern"] == position.PATTERN else f"the form {context['pattern']}"
    if kind == "too_short":
        return f"a list of at least {context['min_length']}"
    if kind == "too_long":
        return f"a list of at most {context['max_length']}"
    if kind == "string_too_long":
        return f"a text of {context['max_length']} characters or fewer"
    if kind == "finite_number":
        return "a finite number"
    word = _TYPE_WORDS.get(kind.removesuffix("_type").removesuffix("_parsing"))
    return word or str(detail["msg"])


def _shown(found: object) -> str:
    try:
        text = json.dumps(found, ensure_ascii=False)
    except (TypeError, ValueError):
        text = repr(found)
    return text if len(text) <= 60 else f"{text[:57]}…"
