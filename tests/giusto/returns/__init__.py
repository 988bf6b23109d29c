"""Players whose returns are drawn: a random walk, a lean, takes that lean apart; and how long they truly hold."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
from scipy.special import ndtr

from giusto.returns.drift import AHEAD, HELD_OFTEN, HELD_SHARE, Returns

FOUR = (2.0, 4.0, 8.0, 16.0)


@dataclass(frozen=True)
class Bridging:
    """A player who bridges silences, a beat of walk behind as the click leaves: sizes in beats, late is positive."""

    walk: float = 0.014
    lean: float = 0.0
    apart: float = 0.0
    sd: float = 0.012
    start: float = 0.008

    def once(self, beats: float, rng: np.random.Generator, *, lean: float | None = None) -> float:
        """Return a return as it is read."""
        true = (self.lean if lean is None else lean) * beats + rng.normal() * np.sqrt(
            self.start**2 + self.walk**2 * (AHEAD + beats)
        )
        return float(true + self.sd * rng.normal())

    def returns(
        self,
        takes: int,
        *,
        seed: int,
        lengths: Sequence[float] = FOUR,
        sd: float | None = None,
        lapses: float = 0.0,
    ) -> Returns:
        """Return the returns of some takes, a silence of each length in each."""
        rng = np.random.default_rng(seed)
        player = Bridging(self.walk, self.lean, self.apart, self.sd if sd is None else sd, self.start)
        rows = []
        for take in range(takes):
            lean = self.lean + self.apart * rng.normal()
            for beats in lengths:
                lost = 0.5 if rng.random() < lapses else 0.0
                rows.append((take, beats, player.once(beats, rng, lean=lean) + lost))
        return player.of(rows)

    def of(self, rows: Sequence[tuple[int, float, float]]) -> Returns:
        """Return rows of take, length and return as returns."""
        take, beats, back = (np.array(column) for column in zip(*rows, strict=True))
        return Returns(take, beats, back, np.full(take.size, self.sd), np.ones(int(take.max()) + 1))

    @property
    def reach(self) -> float:
        """The length that is truly held three times in four, in beats."""
        beats = 2.0 ** np.arange(-3, 12, 0.005)
        sd = np.sqrt(self.start**2 + self.walk**2 * (AHEAD + beats) + (self.apart * beats) ** 2)
        held = ndtr((HELD_SHARE - self.lean * beats) / sd) - ndtr((-HELD_SHARE - self.lean * beats) / sd)
        return float(beats[np.argmax(held < HELD_OFTEN)])
