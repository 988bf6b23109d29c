"""Lists of numbers as pages send them in a form's field: finite, so many at most, or nothing."""

from __future__ import annotations

import json

import numpy as np

from giusto.arrays import FloatArray


def numbers_of(text: str, *, most: int, across: int = 0) -> FloatArray | None:
    """Return a list of numbers, or of so many across; None for what is no such list.

    Parameters
    ----------
    text : str
        JSON.
    most : int
        Numbers, or rows, at most.
    across : int
        Numbers in each row; 0 for a plain list.

    Examples
    --------
    >>> numbers_of("[1, 2.5]", most=5).tolist(), numbers_of("[[1, 2]]", most=5, across=2).tolist()
    ([1.0, 2.5], [[1.0, 2.0]])
    >>> [numbers_of(text, most=2) for text in ("[1, 2, 3]", "[NaN]", "[[1]]", "[" + "9" * 400 + "]", "x")]
    [None, None, None, None, None]
    """
    try:
        found = json.loads(text)
        if not isinstance(found, list) or len(found) > most:
            return None
        numbers = np.array(found, dtype=np.float64).reshape(-1, *((across,) if across else ()))
    except (ValueError, TypeError, OverflowError, RecursionError):
        return None
    return numbers if len(numbers) == len(found) and np.all(np.isfinite(numbers)) else None
