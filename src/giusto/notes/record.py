"""The note record: when, how strong, from what. All sources of notes end as this, in drill time."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from numpy.typing import ArrayLike, NDArray

from giusto.arrays import FloatArray, IntArray
from giusto.errors import GiustoError
from giusto.notes.checks import checked_onsets


@dataclass(frozen=True, slots=True)
class Played:
    """Notes as they were played, ascending in time.

    Attributes
    ----------
    onset_s : array of float, shape (n,)
        Seconds from the drill's time zero.
    strength : array of float, shape (n,)
        0 to 1; NaN where the source has none, as keys have not.
    source : array of str, shape (n,)
        What made each note: a key, a finger, a pad; ``""`` where it isn't known.
    label : array of str, shape (n,)
        What a file says of each note, untouched.
    """

    onset_s: FloatArray
    strength: FloatArray
    source: NDArray[np.str_]
    label: NDArray[np.str_]

    def __len__(self) -> int:
        return self.onset_s.size

    def where(self, which: IntArray) -> Played:
        """Return some of the notes, by index."""
        return Played(self.onset_s[which], self.strength[which], self.source[which], self.label[which])


def notes_of(
    onset_s: ArrayLike,
    *,
    strength: ArrayLike | None = None,
    source: ArrayLike | None = None,
    label: ArrayLike | None = None,
) -> Played:
    """Return notes in order of time: sorted once, here, after whatever line brought them into drill time.

    Parameters
    ----------
    onset_s : array_like, shape (n,)
        Seconds from the drill's time zero, in any order.
    strength, source, label : array_like, shape (n,), optional

    Returns
    -------
    Played

    Raises
    ------
    GiustoError
        Where the onsets break a rule (``checked_onsets``), or another field has another length or a strength
        outside 0 to 1 (``lengths``, ``range``).

    Examples
    --------
    >>> found = notes_of([1.0, 0.5], source=["j", "f"])
    >>> found.onset_s.tolist(), found.source.tolist()
    ([0.5, 1.0], ['f', 'j'])
    """
    onsets = np.asarray(onset_s, dtype=np.float64)
    checked_onsets(np.sort(onsets) if onsets.ndim == 1 else onsets)
    n = onsets.size
    strengths = np.full(n, np.nan) if strength is None else np.asarray(strength, dtype=np.float64)
    sources, labels = (np.full(n, "") if text is None else np.asarray(text, dtype=np.str_) for text in (source, label))
    for name, values in (("strength", strengths), ("source", sources), ("label", labels)):
        if values.shape != (n,):
            raise GiustoError(f"{name} has {values.size} values, allowed are as many as onsets, {n}", code="lengths")
    if np.any((strengths < 0) | (strengths > 1)):
        raise GiustoError("strength lies outside 0 to 1", code="range")
    order = np.argsort(onsets, kind="stable")
    return Played(onsets, strengths, sources, labels).where(order)
