"""So many clean attempts in a row pass a rung."""

from typing import ClassVar, Literal

from giusto.practice.ladder.rules.rule import InARow


class Streak(InARow):
    """So many clean attempts in a row pass a rung."""

    kind: Literal["streak"]
    by_rate: ClassVar[bool] = True
